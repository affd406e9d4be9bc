#include "surface/SoundSimplify.h"

#include "geometry/Checkup.h"
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/SelfIntersections.h"
#include "parallel/Loops.h"
#include "surface/EdgeCollapse.h"

#include <meshoptimizer.h>

namespace seedloom {

namespace {

using Corners = std::vector<Index>;  ///< points, three a triangle

class SoundSimplifier {
public:
    SoundSimplifier(const Geometry& in, const SoundSimplifyOptions& options, const RunContext& run)
        : in_(in), options_(options), run_(run), piece_(in.topology().connection().pieceOfPoint) {
        const double size = boundsOf(in.positions()).diagonal();
        relative_ = options.error > 0 && size > 0 ? float(options.error / size) : 1.0f;
    }

    Corners run() {
        const Corners& whole = in_.topology().cornerPoint();
        Corners out = quick(whole, options_.target, options_.holdOpenEdges);
        run_.poll();
        if (troubleIn(out).empty()) return out;
        before_ = kindsOf(in_);
        if (troubleIn(out).empty()) return out;
        // Edge by edge, with an eye on what may be drawn together, and in steps: what a step would let cross stays about as coarse as the step before left it.
        out = edgeByEdge(whole, options_.target, options_.holdOpenEdges);
        if (troubleIn(out).empty()) return out;
        out = whole;
        for (std::size_t times : {16, 8, 4, 2, 1})
            if (options_.target * times < out.size() / 3) out = step(out, options_.target * times);
        return out;
    }

private:
    /// What the surface had before; more of it is no fault of the steps.
    struct Kinds {
        bool pinched = false, touching = false, flat = false, crossing = false;
    };

    Corners quick(const Corners& from, std::size_t target, bool lockBorder) const {
        Corners out(from.size());
        out.resize(meshopt_simplify(out.data(), from.data(), from.size(), &in_.positions()[0].x, in_.pointCount(), sizeof(Vec3), target * 3, relative_,
                                    lockBorder ? unsigned(meshopt_SimplifyLockBorder) : 0u, nullptr));
        return out;
    }

    Corners edgeByEdge(const Corners& from, std::size_t target, bool lockBorder) const {
        return collapsedSoundly(TriangleMesh(trianglesOver(in_.positions(), from)), {target, options_.error, lockBorder}, run_);
    }
    Corners step(const Corners& from, std::size_t target) const {
        constexpr int kMostTries = 5;
        Corners out = edgeByEdge(from, target, options_.holdOpenEdges);
        std::vector<Index> trouble = troubleIn(out), held;
        float reach = 0.75f * meanEdge(out);
        for (int attempt = 0; attempt < kMostTries && !trouble.empty(); ++attempt, reach *= 1.5f) {
            run_.poll();
            held.insert(held.end(), trouble.begin(), trouble.end());
            out = holding(from, target, held, reach);
            trouble = troubleIn(out);
        }
        return trouble.empty() ? out : from;
    }
    /// What is within reach of such points stays as it is.
    Corners holding(const Corners& from, std::size_t target, const std::vector<Index>& points, float reach) const {
        std::vector<Vec3> at;
        for (Index p : points) at.push_back(in_.positions()[p]);
        const Geometry places(std::move(at));
        const NearestPlace nearest(places, NearestPlace::On::points);
        std::vector<std::uint8_t> held(in_.pointCount());
        forEach(
            held.size(), run_, [&](std::size_t p) { held[p] = nearest.find(in_.positions()[p]).squaredDistance <= reach * reach; }, 2048);
        Corners stays, goes;
        for (std::size_t c = 0; c < from.size(); c += 3) {
            Corners& to = held[from[c]] || held[from[c + 1]] || held[from[c + 2]] ? stays : goes;
            to.insert(to.end(), from.begin() + std::ptrdiff_t(c), from.begin() + std::ptrdiff_t(c) + 3);
        }
        if (goes.empty()) return from;
        const Corners fewer = edgeByEdge(goes, std::max<std::size_t>(1, target * goes.size() / from.size()), true);
        stays.insert(stays.end(), fewer.begin(), fewer.end());
        return stays;
    }
    float meanEdge(const Corners& corners) const {
        double sum = 0;
        for (std::size_t c = 0; c < corners.size(); ++c)
            sum += double(distance(in_.positions()[corners[c]], in_.positions()[corners[c % 3 == 2 ? c - 2 : c + 1]]));
        return float(sum / double(std::max<std::size_t>(1, corners.size())));
    }

    static std::vector<Index> pinchedPoints(const Geometry& g) {
        std::vector<Index> out;
        const EdgeTable& edges = g.topology().edges();
        for (std::size_t e = 0; e < edges.edges.size(); ++e)
            if (edges.faceCount[e] > 2 || (edges.faceCount[e] == 2 && edges.balance[e] != 0)) out.push_back(edges.edges[e].a), out.push_back(edges.edges[e].b);
        return out;
    }
    static std::vector<Index> pointsOf(const Geometry& g, const std::vector<Index>& faces) {
        std::vector<Index> out;
        for (Index f : faces)
            for (Index p : g.topology().face(f)) out.push_back(p);
        return out;
    }
    static std::vector<Index> flatFaces(const Geometry& g) {
        std::vector<Index> out;
        for (Index f = 0; f < g.faceCount(); ++f)
            if (hasNoArea(g.topology().face(f), g.positions())) out.push_back(f);
        return out;
    }
    Kinds kindsOf(const Geometry& g) const {
        return {!pinchedPoints(g).empty(), !touchingPoints(g.topology()).empty(), !flatFaces(g).empty(), !crossingsOf(g).faces.empty()};
    }
    /// Points where the steps did harm.
    std::vector<Index> troubleIn(const Corners& corners) const {
        const Geometry g = trianglesOver(in_.positions(), corners);
        std::vector<Index> out;
        const auto add = [&](const std::vector<Index>& points) { out.insert(out.end(), points.begin(), points.end()); };
        if (!before_.pinched) add(pinchedPoints(g));
        if (!before_.touching) add(touchingPoints(g.topology()));
        if (!before_.flat) add(pointsOf(g, flatFaces(g)));
        if (!before_.crossing) add(pointsOf(g, crossingsOf(g, piece_).faces));
        return out;
    }

    const Geometry& in_;
    const SoundSimplifyOptions& options_;
    const RunContext& run_;
    const std::vector<Index>& piece_;
    float relative_ = 1;
    Kinds before_;
};

}  // namespace

Geometry trianglesOver(const std::vector<Vec3>& positions, const std::vector<Index>& corners) {
    std::vector<Index> start(corners.size() / 3 + 1);
    for (std::size_t f = 0; f < start.size(); ++f) start[f] = Index(3 * f);
    return Geometry(positions, Topology(positions.size(), std::move(start), corners, {0}, {}, {}));
}

std::vector<Index> simplifiedSoundly(const Geometry& triangles, const SoundSimplifyOptions& options, const RunContext& run) {
    return SoundSimplifier(triangles, options, run).run();
}

}  // namespace seedloom
