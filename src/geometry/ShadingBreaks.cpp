#include "geometry/ShadingBreaks.h"

#include "geometry/Measures.h"

#include <algorithm>
#include <optional>

namespace seedloom {

namespace {

constexpr double kThin = 0.02;        ///< of the longest side's square
constexpr float kLong = 0.5f;         ///< of the longest side
constexpr float kOtherWay = 0.9659f;  ///< cosine of 15°
constexpr float kSameWay = 0.9848f;   ///< cosine of 10°
constexpr float kSharp = 0.5f;        ///< cosine of 60°: what turns by more is meant to be an edge
constexpr int kMostBeside = 8;        ///< thin faces side by side that count as one streak

class BreakFinder {
public:
    explicit BreakFinder(const Geometry& g) : g_(g), t_(g.topology()), normals_(faceNormals(g)), longest_(g.faceCount(), 0), thin_(g.faceCount(), 0) {}

    std::vector<Index> find() {
        for (Index f = 0; f < t_.faceCount(); ++f) measure(f);
        std::vector<Index> out;
        if (std::find(thin_.begin(), thin_.end(), 1) == thin_.end()) return out;
        findSides();
        for (Index f = 0; f < t_.faceCount(); ++f)
            if (thin_[f] && breaks(f)) out.push_back(f);
        return out;
    }

private:
    float sideLength(Index c) const {
        const Index f = t_.faceOfCorner()[c], next = c + 1 == t_.faceStart()[f + 1] ? t_.faceStart()[f] : c + 1;
        return length(g_.positions()[t_.cornerPoint()[next]] - g_.positions()[t_.cornerPoint()[c]]);
    }
    void measure(Index f) {
        for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c) longest_[f] = std::max(longest_[f], sideLength(c));
        const auto area = double(length(areaVector(t_.face(f), g_.positions())));
        thin_[f] = area > 0 && area < kThin * double(longest_[f]) * double(longest_[f]);
    }
    void findSides() {
        sides_.assign(t_.edges().edges.size(), {kNone, kNone});
        for (Index c = 0; c < t_.cornerCount(); ++c) {
            auto& both = sides_[t_.edges().cornerEdge[c]];
            (both[0] == kNone ? both[0] : both[1]) = c;
        }
    }
    /// The corner at which the same edge begins on the other side; nothing at borders.
    std::optional<Index> across(Index c) const {
        const Index edge = t_.edges().cornerEdge[c];
        if (t_.edges().faceCount[edge] != 2) return {};
        return sides_[edge][0] == c ? sides_[edge][1] : sides_[edge][0];
    }
    std::vector<Index> longSides(Index f) const {
        std::vector<Index> out;
        for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c)
            if (sideLength(c) > kLong * longest_[f]) out.push_back(c);
        return out;
    }
    /// The first face that is not thin, over that side and on over the other long sides of thin ones.
    std::optional<Index> broadBeyond(Index c) const {
        for (int i = 0; i < kMostBeside; ++i) {
            const auto there = across(c);
            if (!there) return {};
            const Index f = t_.faceOfCorner()[*there];
            if (!thin_[f]) return f;
            const std::vector<Index> sides = longSides(f);
            const auto next = std::find_if(sides.begin(), sides.end(), [&](Index side) { return side != *there; });
            if (next == sides.end()) return {};
            c = *next;
        }
        return {};
    }
    bool breaks(Index f) const {
        const std::vector<Index> sides = longSides(f);
        if (sides.size() != 2) return false;
        const auto a = broadBeyond(sides[0]), b = broadBeyond(sides[1]);
        const auto otherWay = [&](Index beyond) {
            const float turn = dot(normals_[f], normals_[beyond]);
            return turn < kOtherWay && turn > kSharp;
        };
        return a && b && *a != *b && dot(normals_[*a], normals_[*b]) > kSameWay && otherWay(*a) && otherWay(*b);
    }

    const Geometry& g_;
    const Topology& t_;
    std::vector<Vec3> normals_;
    std::vector<float> longest_;
    std::vector<std::uint8_t> thin_;
    std::vector<std::array<Index, 2>> sides_;
};

}  // namespace

std::vector<Index> shadingBreaks(const Geometry& geometry) { return BreakFinder(geometry).find(); }

}  // namespace seedloom
