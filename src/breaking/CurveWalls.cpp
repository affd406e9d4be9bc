#include "breaking/CurveWalls.h"

#include "geometry/BoxTree.h"
#include "geometry/NearestPlace.h"
#include "geometry/RayScene.h"

#include <limits>

namespace seedloom {

namespace {

constexpr double kEdge = 0.25;     ///< length of the triangles' sides, part of the bumps' size
constexpr float kAllWays = 0.35f;  ///< of 1: a shorter mean normal belongs to a line around something
constexpr double kAbove = 0.01;    ///< part of the size: how far a wall stands out of the surface

/// A line as it cuts: its points, and how many at each end were drawn on.
struct Line {
    std::vector<Vec3> at;
    bool closed = false;
    std::size_t before = 0, after = 0;
};

double lengthOf(const Line& line) {
    double sum = 0;
    for (std::size_t i = 1; i < line.at.size(); ++i) sum += double(distance(line.at[i - 1], line.at[i]));
    return sum + (line.closed && line.at.size() > 1 ? double(distance(line.at.back(), line.at.front())) : 0);
}

class WallMaker {
public:
    WallMaker(const Geometry& solid, const CurveCut& cut, const RunContext& run)
        : solid_(solid), cut_(cut), run_(run), nearest_(solid, NearestPlace::On::faces), rays_(solid), normals_(faceNormals(solid)),
          bounds_(boundsOf(solid.positions())), size_(bounds_.diagonal()) {}

    CurveWalls made(const Geometry& curves) {
        const Topology& t = curves.topology();
        for (Index c = 0; c < t.curveCount(); ++c) {
            run_.poll();
            Line line;
            line.closed = t.curveClosed(c);
            for (Index p : t.curve(c)) {
                const Vec3 at = curves.positions()[p];
                if (isFinite(at) && (line.at.empty() || distance(line.at.back(), at) > size_ * 1e-6)) line.at.push_back(at);
            }
            if (line.closed && line.at.size() > 1 && distance(line.at.front(), line.at.back()) <= size_ * 1e-6) line.at.pop_back();
            line.closed &= line.at.size() > 2;
            if (line.at.size() < 2 || !(lengthOf(line) > 0)) {
                out_.pointless.push_back(c);
                continue;
            }
            addWall(line, c);
        }
        const std::size_t count = at_.size();
        at_ = unevenPlaces(at_, cut_.rough);
        out_.walls.geometry = Geometry(std::move(at_), Topology(count, std::move(start_), std::move(corners_), {0}, {}, {}));
        out_.walls.geometry.setColumn(Element::corner, "uv", Column(std::move(uv_)));
        finishLines();
        return std::move(out_);
    }

private:
    /// What the surface faces along the line, in the middle of each stretch (its ends may lie on edges) and as much as it is long; shorter than 1 where it
    /// faces several ways.
    Vec3 meanNormal(const Line& line) const {
        Vec3 sum{};
        if (nearest_.empty()) return sum;  // faces of two corners
        double whole = 0;
        for (std::size_t i = 0; i + (line.closed ? 0 : 1) < line.at.size(); ++i) {
            const Vec3 from = line.at[i], to = line.at[(i + 1) % line.at.size()];
            const double weight = double(distance(from, to));
            sum += normals_[nearest_.find((from + to) / 2).element] * float(weight);
            whole += weight;
        }
        return whole > 0 ? sum / float(whole) : sum;
    }

    void addWall(Line line, Index curve) {
        Vec3 into = normalized(cut_.direction, {});
        bool filled = false;
        if (!(length(into) > 0.5f)) {
            const Vec3 normal = meanNormal(line);
            filled = line.closed && length(normal) < kAllWays;
            into = normalized(-normal, {0, -1, 0});
        }
        if (!line.closed && cut_.extend) drawOn(line, into);
        noteLine(line, curve);
        refine(line);
        filled ? fill(line, curve) : rule(line, into, curve);
    }

    bool meetsSolid(Vec3 at, Vec3 into) const {
        const float far = float(size_ * 2);
        const auto hit = rays_.firstHit(at - into * far, into, 0);
        return hit && (cut_.depth <= 0 || double(*hit) - double(far) <= cut_.depth);
    }
    /// Goes on straight, across the direction of the wall, until the wall no longer meets the solid.
    void drawOn(Line& line, Vec3 into) const {
        const auto grow = [&](Vec3 end, Vec3 from) {
            std::vector<Vec3> added;
            Vec3 way = end - from;
            way = normalized(way - into * dot(way, into), {});
            if (!(length(way) > 0.5f)) return added;
            const float step = float(size_ / 100);
            Vec3 at = end;
            bool met = meetsSolid(at, into) || meetsSolid(at - way * step, into);  // one that ends on the border needs a little more, too
            for (int i = 0; met && i < 250; ++i) at += way * step, met = meetsSolid(at, into), added.push_back(at);
            if (!added.empty() || cut_.rough.amount > 0) added.push_back(at + way * (step + float(4 * cut_.rough.amount)));
            return added;
        };
        const std::vector<Vec3> front = grow(line.at.front(), line.at[1]), back = grow(line.at.back(), line.at[line.at.size() - 2]);
        line.before = front.size(), line.after = back.size();
        line.at.insert(line.at.begin(), front.rbegin(), front.rend());
        line.at.insert(line.at.end(), back.begin(), back.end());
    }

    void noteLine(const Line& line, Index curve) {
        const std::size_t first = line.before, last = line.at.size() - line.after;
        const auto add = [&](std::size_t from, std::size_t to, bool closed, bool drawnOn) {
            if (to - from < 2) return;
            for (std::size_t i = from; i < to; ++i) linePoint_.push_back(Index(lineAt_.size())), lineAt_.push_back(line.at[i]);
            lineStart_.push_back(Index(linePoint_.size()));
            lineClosed_.push_back(closed);
            drawnOn_.push_back(drawnOn);
            lineCurve_.push_back(std::int32_t(curve));
        };
        if (line.before > 0) add(0, first + 1, false, true);
        add(first, last, line.closed, false);
        if (line.after > 0) add(last - 1, line.at.size(), false, true);
    }
    void finishLines() {
        const std::size_t count = lineAt_.size();
        out_.extended = Geometry(std::move(lineAt_), Topology(count, {0}, {}, std::move(lineStart_), std::move(linePoint_), std::move(lineClosed_)));
        out_.extended.setColumn(Element::curve, "drawn_on", Column(std::move(drawnOn_)));
        out_.extended.setColumn(Element::curve, "line", Column(std::move(lineCurve_)));
    }

    /// Points as near to each other as the bumps ask for.
    void refine(Line& line) const {
        if (!(cut_.rough.amount > 0)) return;
        const double spacing = cut_.rough.size * kEdge;
        run_.require(lengthOf(line) / spacing, "points along a line");
        std::vector<Vec3> out;
        for (std::size_t i = 0; i < line.at.size(); ++i) {
            out.push_back(line.at[i]);
            if (i + 1 == line.at.size() && !line.closed) break;
            const Vec3 next = line.at[(i + 1) % line.at.size()];
            const int parts = std::max(1, int(std::ceil(double(distance(line.at[i], next)) / spacing)));
            for (int k = 1; k < parts; ++k) out.push_back(mix(line.at[i], next, float(k) / float(parts)));
        }
        line.at = std::move(out);
    }

    /// Rows of points from over the surface down, each row the line moved along one direction.
    void rule(const Line& line, Vec3 into, Index curve) {
        const float above = float(size_ * kAbove + 3 * cut_.rough.amount);
        float below = float(cut_.depth);
        if (cut_.depth <= 0) {
            float deepest = -std::numeric_limits<float>::max(), least = std::numeric_limits<float>::max();
            for (int i = 0; i < 8; ++i) deepest = std::max(deepest, dot(bounds_.corner(i), into));
            for (Vec3 p : line.at) least = std::min(least, dot(p, into));
            below = std::max(0.0f, deepest - least) + above;
        }
        const std::size_t rows = rowsFor(double(above + below));
        grid(line, rows, curve, into, false, [&](Vec3 p, std::size_t row) { return p + into * (float(row) / float(rows) * (above + below) - above); });
    }
    /// Rows of points from outside the line to its middle.
    void fill(const Line& line, Index curve) {
        Vec3 middle{};
        for (Vec3 p : line.at) middle += p / float(line.at.size());
        float farthest = 0;
        for (Vec3 p : line.at) farthest = std::max(farthest, distance(p, middle));
        const float out = float(size_ * kAbove + 3 * cut_.rough.amount) / std::max(farthest, float(size_ * 1e-6));
        const std::size_t rows = rowsFor(double(farthest));
        const float deepest = cut_.depth > 0 ? std::min(1.0f, float(cut_.depth) / farthest) : 1.0f;
        grid(line, rows, curve, {}, deepest == 1,
             [&](Vec3 p, std::size_t row) { return p + (middle - p) * (float(row) / float(rows) * (deepest + out) - out); });
    }
    std::size_t rowsFor(double length) const {
        return cut_.rough.amount > 0 ? std::max<std::size_t>(1, std::size_t(std::ceil(length / (cut_.rough.size * kEdge)))) : 1;
    }

    /// `seenAlong`: the direction in which the rows lie over each other; none where they do not. `oneMiddle`: the last row is one point.
    template <class PlaceAt> void grid(const Line& line, std::size_t rows, Index curve, Vec3 seenAlong, bool oneMiddle, PlaceAt&& placeAt) {
        const std::size_t columns = line.at.size();
        run_.require(6 * double(rows) * double(columns), "corners of a wall");
        std::vector<float> along(columns + 1, 0);
        for (std::size_t i = 0; i < columns; ++i) along[i + 1] = along[i] + distance(line.at[i], line.at[(i + 1) % columns]);
        const auto first = Index(at_.size());
        std::vector<float> down(rows + 1, 0);
        for (std::size_t row = 0; row <= rows; ++row) {
            for (std::size_t i = 0; i < columns; ++i) at_.push_back(placeAt(line.at[i], row));
            if (row > 0) down[row] = down[row - 1] + distance(at_[first + (row - 1) * columns], at_[first + row * columns]);
        }
        const bool crossing = crossesItself(line, seenAlong);
        const std::size_t stretches = line.closed ? columns : columns - 1;
        for (std::size_t row = 0; row < rows; ++row)
            for (std::size_t i = 0; i < stretches; ++i) {
                const auto point = [&](std::size_t column, std::size_t r) {
                    return first + Index(r * columns + (oneMiddle && r == rows ? 0 : column % columns));
                };
                const std::array<Index, 4> quad{point(i, row), point(i, row + 1), point(i + 1, row + 1), point(i + 1, row)};
                const std::array<Vec2, 4> flat{Vec2{along[i], -down[row]},
                                               {along[i], -down[row + 1]},
                                               {along[i + 1], -down[row + 1]},
                                               {along[i + 1], -down[row]}};
                for (const auto& corners : {std::array<std::size_t, 3>{0, 1, 2}, {0, 2, 3}}) {
                    if (quad[corners[0]] == quad[corners[1]] || quad[corners[1]] == quad[corners[2]] || quad[corners[2]] == quad[corners[0]]) continue;
                    for (std::size_t k : corners) corners_.push_back(quad[k]), uv_.push_back(flat[k]);
                    start_.push_back(Index(corners_.size()));
                    out_.walls.cells.push_back({0, 0});
                    out_.walls.wall.push_back(curve);
                    out_.walls.group.push_back(crossing ? groups_ + Index(i) : groups_);
                }
            }
        groups_ += crossing ? Index(stretches) : 1;
    }
    /// Whether stretches that are no neighbours cross, as seen along a direction; by how near they come where there is none.
    bool crossesItself(const Line& line, Vec3 seenAlong) const {
        const std::size_t n = line.at.size(), stretches = line.closed ? n : n - 1;
        std::vector<Vec3> at;
        for (Vec3 p : line.at) at.push_back(p - seenAlong * dot(p, seenAlong));
        std::vector<Box> boxes(stretches);
        std::vector<Index> all(stretches);
        for (Index i = 0; i < stretches; ++i) {
            const float reach = 0.3f * distance(at[i], at[(i + 1) % n]);
            const Vec3 p = at[i], q = at[(i + 1) % n], wide{reach, reach, reach};
            boxes[i] = {p - wide, p + wide};
            boxes[i].add(Box{q - wide, q + wide});
            all[i] = i;
        }
        const BoxTree tree(boxes, all);
        bool crossing = false;
        for (Index i = 0; i < stretches && !crossing; ++i)
            tree.meeting(boxes[i], [&](Index k) {
                if (k < i + 2 || (line.closed && i == 0 && k + 1 == stretches)) return;
                const Vec3 p = at[i], q = at[i + 1], r = at[k], s = at[(k + 1) % n];
                crossing |= segmentDistance(p, q, r, s) < 0.3f * std::min(distance(p, q), distance(r, s));
            });
        return crossing;
    }
    /// Source: Ericson, "Real-Time Collision Detection", 2005, 5.1.9.
    static float segmentDistance(Vec3 p, Vec3 q, Vec3 r, Vec3 s) {
        const Vec3 a = q - p, b = s - r, w = p - r;
        const float aa = dot(a, a), bb = dot(b, b), ab = dot(a, b), aw = dot(a, w), bw = dot(b, w), det = aa * bb - ab * ab;
        float t = det > 1e-12f * aa * bb ? std::clamp((ab * bw - aw * bb) / det, 0.0f, 1.0f) : 0;
        float u = bb > 0 ? (ab * t + bw) / bb : 0;
        if (u < 0) u = 0, t = aa > 0 ? std::clamp(-aw / aa, 0.0f, 1.0f) : 0;
        else if (u > 1) u = 1, t = aa > 0 ? std::clamp((ab - aw) / aa, 0.0f, 1.0f) : 0;
        return length(w + a * t - b * u);
    }

    const Geometry& solid_;
    const CurveCut& cut_;
    const RunContext& run_;
    NearestPlace nearest_;
    RayScene rays_;
    std::vector<Vec3> normals_;
    Bounds bounds_;
    double size_;
    CurveWalls out_;
    std::vector<Vec3> at_, lineAt_;
    std::vector<Index> start_{0}, corners_, lineStart_{0}, linePoint_;
    std::vector<Vec2> uv_;
    std::vector<std::uint8_t> lineClosed_, drawnOn_;
    std::vector<std::int32_t> lineCurve_;
    Index groups_ = 0;
};

}  // namespace

CurveWalls curveWalls(const Geometry& solid, const Geometry& curves, const CurveCut& cut, const RunContext& run) {
    return WallMaker(solid, cut, run).made(curves);
}

}  // namespace seedloom
