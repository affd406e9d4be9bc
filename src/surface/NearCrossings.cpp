#include "surface/NearCrossings.h"

#include "geometry/Measures.h"
#include "geometry/PartTaker.h"
#include "geometry/SelfIntersections.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

/// Faces that are near others which look elsewhere: only those can cross something. Where all faces within a block look to one side, the surface is a
/// height above a plane there; a second layer above it would have an underside between them.
class Suspects {
public:
    Suspects(const Geometry& g, float cell, const RunContext& run) : g_(g) {
        const Bounds bounds = boundsOf(g.positions());
        low_ = bounds.min;
        // Numbers of cells fit into 21 bits each.
        size_ = std::max(2 * cell, float(bounds.diagonal() / 1e6));
        place(run);
        judge(run);
    }

    std::vector<Index> faces() const {
        std::vector<Index> out;
        for (std::size_t b = 0; b < keys_.size(); ++b)
            if (taken_[b]) out.insert(out.end(), order_.begin() + start_[b], order_.begin() + start_[b + 1]);
        std::sort(out.begin(), out.end());
        return out;
    }

private:
    using Key = std::uint64_t;
    static constexpr std::size_t kSides = 26;

    static std::array<Vec3, kSides> sides() {
        std::array<Vec3, kSides> out;
        std::size_t n = 0;
        for (int x = -1; x <= 1; ++x)
            for (int y = -1; y <= 1; ++y)
                for (int z = -1; z <= 1; ++z)
                    if (x != 0 || y != 0 || z != 0) out[n++] = normalized(Vec3{float(x), float(y), float(z)});
        return out;
    }
    static Key key(std::int64_t x, std::int64_t y, std::int64_t z) { return Key(x + 1) | Key(y + 1) << 21 | Key(z + 1) << 42; }

    void place(const RunContext& run) {
        const std::size_t n = g_.faceCount();
        std::vector<std::pair<Key, Index>> sorted(n);
        forEach(n, run, [&](std::size_t f) {
            Vec3 middle{};
            const auto face = g_.topology().face(f);
            for (Index p : face) middle += g_.positions()[p] / float(face.size());
            const auto at = [&](int c) { return std::int64_t((middle[c] - low_[c]) / size_); };
            sorted[f] = {key(at(0), at(1), at(2)), Index(f)};
        });
        run.poll();
        std::sort(sorted.begin(), sorted.end());
        for (const auto& [k, f] : sorted) {
            if (keys_.empty() || keys_.back() != k) keys_.push_back(k), start_.push_back(Index(order_.size()));
            order_.push_back(f);
        }
        start_.push_back(Index(order_.size()));
    }
    /// For each block of cells, whether there is a side to which all its faces look.
    void judge(const RunContext& run) {
        const auto side = sides();
        std::vector<std::array<float, kSides>> least(keys_.size());
        forEach(
            keys_.size(), run,
            [&](std::size_t b) {
                least[b].fill(1);
                for (Index i = start_[b]; i < start_[b + 1]; ++i) {
                    const Vec3 n = normalized(areaVector(g_.topology().face(order_[i]), g_.positions()), {});
                    for (std::size_t s = 0; s < kSides; ++s) least[b][s] = std::min(least[b][s], dot(n, side[s]));
                }
            },
            64);
        std::vector<std::array<Index, 27>> around(keys_.size());
        std::vector<std::uint8_t> turns(keys_.size(), 0);
        forEach(
            keys_.size(), run,
            [&](std::size_t b) {
                auto together = least[b];
                std::size_t n = 0;
                for (std::int64_t z = -1; z <= 1; ++z)
                    for (std::int64_t y = -1; y <= 1; ++y)
                        for (std::int64_t x = -1; x <= 1; ++x) {
                            const Key other = keys_[b] + Key(x) + (Key(y) << 21) + (Key(z) << 42);
                            const auto found = std::lower_bound(keys_.begin(), keys_.end(), other);
                            around[b][n] = found != keys_.end() && *found == other ? Index(found - keys_.begin()) : kNone;
                            if (around[b][n] != kNone)
                                for (std::size_t s = 0; s < kSides; ++s) together[s] = std::min(together[s], least[around[b][n]][s]);
                            ++n;
                        }
                turns[b] = *std::max_element(together.begin(), together.end()) < kLeast;
            },
            64);
        taken_.assign(keys_.size(), 0);
        for (std::size_t b = 0; b < keys_.size(); ++b)
            if (turns[b])
                for (Index other : around[b])
                    if (other != kNone) taken_[other] = 1;
    }
    static constexpr float kLeast = 0.1f;  ///< triangles of a face differ a little from it

    const Geometry& g_;
    Vec3 low_;
    float size_ = 1;
    std::vector<Key> keys_;
    std::vector<Index> start_, order_;
    std::vector<std::uint8_t> taken_;
};

}  // namespace

std::vector<Index> nearCrossings(const Geometry& surface, const std::vector<Index>& pieceOfPoint, float reach, const RunContext& run) {
    const std::vector<Index> faces = Suspects(surface, reach, run).faces();
    if (faces.empty()) return {};
    PartTaker taker(surface);
    for (Index f : faces) taker.addFace(f);
    const Geometry part = taker.take();
    std::vector<Index> piece(part.pointCount(), 0);
    for (std::size_t i = 0; i < faces.size(); ++i) {
        const auto own = part.topology().face(i), whole = surface.topology().face(faces[i]);
        for (std::size_t k = 0; k < own.size(); ++k) piece[own[k]] = pieceOfPoint[whole[k]];
    }
    std::vector<Index> out = crossingsOf(part, piece).faces;
    for (Index& f : out) f = faces[f];
    return out;
}

}  // namespace seedloom
