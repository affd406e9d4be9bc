// Turning profiles about an axis.
#include "geometry/Measures.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

/// Builds the faces of one profile after the other into a row plan, with the places of the new points.
class Revolver {
public:
    Revolver(const Geometry& in, const RevolveOptions& options) : in_(in), options_(options) {
        full_ = options.angle >= 360 - 1e-9;
        rings_ = options.sides + (full_ ? 0 : 1);
        const Bounds bounds = boundsOf(in.positions());
        onAxis_ = static_cast<float>(1e-6 * std::max({bounds.diagonal(), double(length(bounds.max)), 1e-12}));
        for (int i = 0; i < rings_; ++i) {
            // The quarter turns are exact, so that a revolved box profile has exact sides.
            const double a = radians(options.angle) * i / options.sides;
            turn_.push_back({snapped(std::cos(a)), snapped(std::sin(a))});
        }
    }

    void addCurve(std::size_t curve) {
        curve_ = static_cast<Index>(curve);
        const Topology& t = in_.topology();
        source_.assign(t.curve(curve).begin(), t.curve(curve).end());
        closed_ = t.curveClosed(curve) && source_.size() > 2;
        if (source_.size() < 2) return;
        profile_.clear();
        for (Index p : source_) profile_.push_back(scaled(in_.positions()[p]));
        if (!closed_) extendToAxis();
        makeRings();
        makeSides();
        if (!full_ && options_.caps) makeCaps();
    }

    Geometry finish(std::size_t* skippedCaps) {
        if (skippedCaps) *skippedCaps = skippedCaps_;
        const std::vector<Index>& pointSource = plan_.points;
        const std::vector<Index>& faceCurve = plan_.faces;
        Geometry shell(positions_, Topology(positions_.size(), plan_.faceStart, plan_.cornerPoint, {0}, {}, {}));
        for (const auto& [name, column] : in_.table(Element::point))
            if (name != "position") shell.setColumn(Element::point, name, turned(name, gather(column, pointSource)));
        for (const auto& [name, column] : in_.table(Element::curve)) shell.setColumn(Element::face, name, gather(column, faceCurve));
        for (const auto& [name, column] : in_.table(Element::model)) shell.setColumn(Element::model, name, column);
        shell.setColumn(Element::corner, "uv", Column(std::move(uv_)));
        return outward(shell);
    }

private:
    static float snapped(double v) {
        const double nearest = std::round(v);
        return static_cast<float>(std::abs(v - nearest) < 1e-12 ? nearest : v);
    }
    Vec3 scaled(Vec3 p) const {
        p[options_.axis] *= static_cast<float>(options_.heightScale);
        return p;
    }
    float radius(Vec3 p) const {
        p[options_.axis] = 0;
        return length(p);
    }
    /// Right-handed turn about the axis by ring `i`.
    Vec3 turnBy(Vec3 p, int i) const {
        const int a = (options_.axis + 1) % 3, b = (options_.axis + 2) % 3;
        const auto [c, s] = turn_[i];
        Vec3 out = p;
        out[a] = p[a] * c - p[b] * s;
        out[b] = p[a] * s + p[b] * c;
        return out;
    }
    void extendToAxis() {
        const auto footOf = [&](Vec3 p) {
            Vec3 foot{};
            foot[options_.axis] = p[options_.axis];
            return foot;
        };
        if (options_.closeStart && radius(profile_.front()) > onAxis_) {
            profile_.insert(profile_.begin(), footOf(profile_.front()));
            source_.insert(source_.begin(), source_.front());
        }
        if (options_.closeEnd && radius(profile_.back()) > onAxis_) {
            profile_.push_back(footOf(profile_.back()));
            source_.push_back(source_.back());
        }
    }
    /// One point a ring, or a single one on the axis.
    void makeRings() {
        first_.assign(profile_.size(), 0);
        pole_.assign(profile_.size(), 0);
        for (std::size_t k = 0; k < profile_.size(); ++k) {
            first_[k] = static_cast<Index>(positions_.size());
            pole_[k] = radius(profile_[k]) <= onAxis_;
            for (int i = 0; i < (pole_[k] ? 1 : rings_); ++i) {
                Vec3 place = pole_[k] ? Vec3{} : turnBy(profile_[k], i);
                if (pole_[k]) place[options_.axis] = profile_[k][options_.axis];
                positions_.push_back(place);
                plan_.points.push_back(source_[k]);
                ring_.push_back(pole_[k] ? 0 : i);
            }
        }
        along_.assign(profile_.size() + 1, 0);
        for (std::size_t k = 1; k <= profile_.size(); ++k) along_[k] = along_[k - 1] + distance(profile_[k - 1], profile_[k % profile_.size()]);
        const float whole = closed_ ? along_.back() : along_[profile_.size() - 1];
        for (float& v : along_) v = whole > 0 ? v / whole : 0;
    }
    Index at(std::size_t k, int i) const { return first_[k] + (pole_[k] ? 0u : static_cast<Index>(i % rings_)); }
    void corner(std::size_t k, int i, float along) {
        plan_.cornerPoint.push_back(at(k, i));
        uv_.push_back({static_cast<float>(i) / static_cast<float>(options_.sides), along});
    }
    void makeSides() {
        const std::size_t spans = closed_ ? profile_.size() : profile_.size() - 1;
        for (std::size_t k = 0; k < spans; ++k) {
            const std::size_t next = (k + 1) % profile_.size();
            if (pole_[k] && pole_[next]) continue;
            for (int i = 0; i < options_.sides; ++i) {
                corner(k, i, along_[k]);
                if (!pole_[k]) corner(k, i + 1, along_[k]);
                if (!pole_[next]) corner(next, i + 1, along_[k + 1]);
                corner(next, i, along_[k + 1]);
                plan_.endFace(curve_);
            }
        }
    }
    void makeCaps() {
        const bool touches = closed_ || (pole_.front() && pole_.back());
        if (!touches || profile_.size() < 3) {
            skippedCaps_ += 2;
            return;
        }
        for (std::size_t k = 0; k < profile_.size(); ++k) capCorner(k, 0);
        plan_.endFace(curve_);
        for (std::size_t k = profile_.size(); k-- > 0;) capCorner(k, options_.sides);
        plan_.endFace(curve_);
    }
    void capCorner(std::size_t k, int i) {
        plan_.cornerPoint.push_back(at(k, i));
        Vec3 p = profile_[k];
        uv_.push_back({radius(p), p[options_.axis]});
    }
    Column turned(const std::string& name, Column column) const {
        if (name != "normal" && name != "tangent" && name != "side" && name != "up") return column;
        const auto* values = column.as<Vec3>();
        if (!values) return column;
        std::vector<Vec3> out = *values;
        for (std::size_t p = 0; p < out.size(); ++p) out[p] = turnBy(out[p], ring_[p]);
        return Column(std::move(out));
    }
    /// Faces are made in one sense; a profile drawn the other way round is turned over as a whole.
    Geometry outward(const Geometry& shell) const {
        double sense = 0;
        const bool closedShell = shell.faceCount() > 0 && checkClosed(shell);
        if (closedShell) {
            sense = signedVolume(shell);
        } else {
            for (std::size_t f = 0; f < shell.faceCount(); ++f) {
                Vec3 away = centreOf(shell.topology().face(f), shell.positions());
                away[options_.axis] = 0;
                sense += double(dot(areaVector(shell.topology().face(f), shell.positions()), away));
            }
        }
        if (sense >= 0) return shell;
        Geometry back = flipped(shell, std::vector<std::uint8_t>(shell.faceCount(), 1));
        if (const Column* normals = shell.column(Element::point, "normal")) back.setColumn(Element::point, "normal", *normals);
        return back;
    }
    static bool checkClosed(const Geometry& g) {
        const auto& counts = g.topology().edges().faceCount;
        return std::all_of(counts.begin(), counts.end(), [](Index n) { return n == 2; });
    }

    const Geometry& in_;
    const RevolveOptions& options_;
    bool full_ = true, closed_ = false;
    int rings_ = 0;
    float onAxis_ = 0;
    std::vector<std::pair<float, float>> turn_;
    Index curve_ = 0;
    std::vector<Index> source_, first_;
    std::vector<Vec3> profile_, positions_;
    std::vector<std::uint8_t> pole_;
    std::vector<float> along_;
    std::vector<int> ring_;
    std::vector<Vec2> uv_;
    RowPlan plan_;
    std::size_t skippedCaps_ = 0;
};

}  // namespace

Geometry revolve(const Geometry& profiles, const RevolveOptions& options, std::size_t* skippedCaps) {
    Revolver revolver(profiles, options);
    for (std::size_t c = 0; c < profiles.curveCount(); ++c) revolver.addCurve(c);
    return revolver.finish(skippedCaps);
}

}  // namespace seedloom
