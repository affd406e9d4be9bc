#include "operators/curve/SweepKernel.h"

#include "geometry/Measures.h"
#include "operators/curve/CurveFrames.h"

namespace seedloom {

namespace {

constexpr float kSharpestStretch = 4;  ///< of a profile at a corner of the path

double areaOf(const std::vector<Vec2>& ring) {
    double sum = 0;
    for (std::size_t i = 0; i < ring.size(); ++i) {
        const Vec2 a = ring[i], b = ring[i + 1 == ring.size() ? 0 : i + 1];
        sum += double(a.x) * double(b.y) - double(b.x) * double(a.y);
    }
    return sum;
}

/// Which coordinates of a profile are across and up.
struct ProfilePlane {
    int across = 0, up = 1;
    float upSign = 1, acrossSign = 1;
};

ProfilePlane planeOf(const Geometry& geometry) {
    Vec3 n{};
    for (std::size_t c = 0; c < geometry.curveCount(); ++c) {
        const Vec3 area = areaVector(geometry.topology().curve(c), geometry.positions());
        n += {std::abs(area.x), std::abs(area.y), std::abs(area.z)};
    }
    if (n == Vec3{}) {  // straight: the flattest way to look at it
        const Vec3 size = boundsOf(geometry.positions()).size();
        if (size.y <= 1e-6f * length(size) && size.z > 0) n.y = 1;
        else if (size.x <= 1e-6f * length(size) && size.z > 0) n.x = 1;
    }
    if (n.y > n.x && n.y >= n.z) return {0, 2, -1, 1};
    if (n.x > n.z) return {2, 1, 1, -1};
    return {0, 1, 1, 1};
}

class Sweeper {
public:
    Sweeper(const Geometry& path, const SweepOptions& options) : path_(path), options_(options) {}

    void add(Index curve, const SweepProfile& profile) {
        curve_ = curve;
        profile_ = &profile;
        const auto points = path_.topology().curve(curve);
        closedPath_ = path_.topology().curveClosed(curve) && points.size() > 2;
        const CurveFrames frames = framesOf(path_, curve, options_.up);
        along_ = frames.along;
        rings_ = points.size();
        width_ = profile.places.size();
        first_ = static_cast<Index>(positions_.size());
        for (std::size_t i = 0; i < rings_; ++i) addRing(points, i, frames);
        measureAcross();
        if (options_.edgesOnly) return addLines();
        addSides();
        if (profile.closed && !closedPath_ && options_.caps && width_ > 2) addCaps();
    }

    Geometry finish(const Geometry& profileGeometry) {
        const std::size_t points = positions_.size();
        Geometry out(std::move(positions_),
                     Topology(points, std::move(faceStart_), std::move(cornerPoint_), std::move(lineStart_), std::move(linePoint_), std::move(lineClosed_)));
        if (!profilePoint_.empty())
            for (const auto& [name, column] : profileGeometry.table(Element::point))
                if (name != "position" && name != "normal" && name != "along") out.setColumn(Element::point, name, gather(column, profilePoint_));
        for (const auto& [name, column] : path_.table(Element::point))
            if (name != "position" && name != "normal") out.setColumn(Element::point, name, gather(column, pathPoint_));
        for (const auto& [name, column] : path_.table(Element::curve))
            out.setColumn(options_.edgesOnly ? Element::curve : Element::face, name, gather(column, faceCurve_));
        for (const auto& [name, column] : path_.table(Element::model)) out.setColumn(Element::model, name, column);
        if (options_.edgesOnly) return out;
        out.setColumn(Element::corner, "uv", Column(std::move(uv_)));
        std::vector<std::uint8_t> side(cap_.size());
        for (std::size_t f = 0; f < cap_.size(); ++f) side[f] = !cap_[f];
        out.setColumn(Element::face, "side", Column(std::move(side)));
        out.setColumn(Element::face, "cap", Column(std::move(cap_)));
        return out;
    }

private:
    void addRing(std::span<const Index> points, std::size_t i, const CurveFrames& frames) {
        const Index p = points[i];
        const Vec3 at = path_.positions()[p], t = frames.tangent[i];
        const float turn = float(radians(double(options_.twist[p])));
        const Vec3 straight = options_.level ? normalized(options_.up - t * dot(options_.up, t), frames.up[i]) : frames.up[i];
        const Vec3 up = turn == 0 ? straight : rotateAbout(straight, t, turn), side = cross(t, up);
        Vec3 stretch{};
        float by = 0;
        if (closedPath_ || (i > 0 && i + 1 < rings_)) {
            const Vec3 in = normalized(at - path_.positions()[points[(i + rings_ - 1) % rings_]], t),
                       out = normalized(path_.positions()[points[(i + 1) % rings_]] - at, t);
            const Vec3 bend = out - in;
            const float half = std::sqrt(std::max(0.0f, (1 + dot(in, out)) / 2));
            stretch = normalized(bend - t * dot(bend, t), {});
            by = std::min(1 / std::max(half, 1e-3f), kSharpestStretch) - 1;
        }
        for (std::size_t k = 0; k < width_; ++k) {
            const Vec2 place = profile_->places[k] * options_.scale[p];
            Vec3 offset = side * place.x + up * place.y;
            offset += stretch * (dot(offset, stretch) * by);
            positions_.push_back(at + offset);
            pathPoint_.push_back(p);
            if (!profile_->points.empty()) profilePoint_.push_back(profile_->points[k]);
        }
    }
    Index at(std::size_t ring, std::size_t k) const { return first_ + static_cast<Index>((ring % rings_) * width_ + k % width_); }

    void measureAcross() {
        across_.assign(width_ + 1, 0);
        for (std::size_t k = 1; k <= width_; ++k) {
            const Vec2 step = profile_->places[k % width_] - profile_->places[k - 1];
            across_[k] = across_[k - 1] + std::hypot(step.x, step.y);
        }
        const float whole = profile_->closed ? across_[width_] : across_[width_ - 1];
        for (float& v : across_) v = whole > 0 ? v / whole : 0;
    }
    void corner(std::size_t ring, std::size_t k) {
        cornerPoint_.push_back(at(ring, k));
        uv_.push_back({across_[k], ring == rings_ ? 1.0f : along_[ring]});
    }
    void endFace(bool cap) {
        faceStart_.push_back(static_cast<Index>(cornerPoint_.size()));
        faceCurve_.push_back(curve_);
        cap_.push_back(cap);
    }
    void addSides() {
        const std::size_t spans = closedPath_ ? rings_ : rings_ - 1, across = profile_->closed ? width_ : width_ - 1;
        for (std::size_t i = 0; i < spans; ++i)
            for (std::size_t k = 0; k < across; ++k) {
                if (profile_->closed) corner(i + 1, k), corner(i + 1, k + 1), corner(i, k + 1), corner(i, k);
                else corner(i, k), corner(i, k + 1), corner(i + 1, k + 1), corner(i + 1, k);
                endFace(false);
            }
    }
    void addCaps() {
        for (std::size_t k = 0; k < width_; ++k) capCorner(0, k);
        endFace(true);
        for (std::size_t k = width_; k-- > 0;) capCorner(rings_ - 1, k);
        endFace(true);
    }
    void capCorner(std::size_t ring, std::size_t k) {
        cornerPoint_.push_back(at(ring, k));
        uv_.push_back(profile_->places[k]);
    }
    /// The lines that the profile's corners run along: its ends where it is open.
    void addLines() {
        for (std::size_t k = 0; k < width_; ++k) {
            if (!profile_->closed && k != 0 && k + 1 != width_) continue;
            for (std::size_t i = 0; i < rings_; ++i) linePoint_.push_back(at(i, k));
            lineStart_.push_back(static_cast<Index>(linePoint_.size()));
            lineClosed_.push_back(closedPath_);
            faceCurve_.push_back(curve_);
        }
    }

    const Geometry& path_;
    const SweepOptions& options_;
    const SweepProfile* profile_ = nullptr;
    Index curve_ = 0, first_ = 0;
    bool closedPath_ = false;
    std::size_t rings_ = 0, width_ = 0;
    std::vector<float> along_, across_;
    std::vector<Vec3> positions_;
    std::vector<Index> pathPoint_, profilePoint_, faceStart_{0}, cornerPoint_, faceCurve_, lineStart_{0}, linePoint_;
    std::vector<std::uint8_t> lineClosed_, cap_;
    std::vector<Vec2> uv_;
};

}  // namespace

std::vector<SweepProfile> profilesOf(const Geometry& geometry) {
    const ProfilePlane plane = planeOf(geometry);
    std::vector<SweepProfile> out;
    for (Index c = 0; c < geometry.curveCount(); ++c) {
        const auto curve = geometry.topology().curve(c);
        if (curve.size() < 2) continue;
        SweepProfile profile;
        profile.curve = c;
        profile.closed = geometry.topology().curveClosed(c) && curve.size() > 2;
        profile.points.assign(curve.begin(), curve.end());
        for (Index p : curve) {
            const Vec3 at = geometry.positions()[p];
            profile.places.push_back({at[plane.across] * plane.acrossSign, at[plane.up] * plane.upSign});
        }
        if (profile.closed && areaOf(profile.places) < 0) {
            std::reverse(profile.places.begin(), profile.places.end());
            std::reverse(profile.points.begin(), profile.points.end());
        }
        out.push_back(std::move(profile));
    }
    return out;
}

SweepProfile roundProfile(int sides) {
    SweepProfile out;
    out.closed = true;
    for (int i = 0; i < sides; ++i) out.places.push_back({float(0.5 * std::cos(2 * kPi * i / sides)), float(0.5 * std::sin(2 * kPi * i / sides))});
    return out;
}

SweepProfile ribbonProfile(int columns) {
    SweepProfile out;
    for (int i = 0; i <= columns; ++i) out.places.push_back({float(i) / float(columns) - 0.5f, 0});
    return out;
}

Geometry sweep(const Geometry& path, const Geometry& profileGeometry, const std::vector<SweepProfile>& profiles, const SweepOptions& options) {
    Sweeper sweeper(path, options);
    for (Index c = 0; c < path.curveCount(); ++c) {
        if (path.topology().curve(c).size() < 2) continue;
        for (const SweepProfile& profile : profiles) sweeper.add(c, profile);
    }
    return sweeper.finish(profileGeometry);
}

}  // namespace seedloom
