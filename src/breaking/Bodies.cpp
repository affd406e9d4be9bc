#include "breaking/Bodies.h"

#include "geometry/Measures.h"
#include "geometry/PartTaker.h"
#include "scatter/VolumeSamples.h"

#include <limits>
#include <map>

namespace seedloom {

namespace {

/// What hangs together, before it is known whether it is hollow.
struct Shell {
    std::vector<Index> faces;
    Geometry geometry;
    Bounds bounds;
    double volume = 0;
};

std::vector<Shell> shellsOf(const Geometry& g) {
    std::map<Index, std::size_t> known;
    std::vector<Shell> out;
    for (Index f = 0; f < g.faceCount(); ++f) {
        if (g.topology().face(f).empty()) continue;
        const auto [it, isNew] = known.try_emplace(g.topology().connection().pieceOfPoint[g.topology().face(f)[0]], out.size());
        if (isNew) out.emplace_back();
        out[it->second].faces.push_back(f);
    }
    PartTaker taker(g);
    for (Shell& shell : out) {
        for (Index f : shell.faces) taker.addFace(f);
        shell.geometry = taker.take();
        shell.bounds = boundsOf(shell.geometry.positions());
        shell.volume = signedVolume(shell.geometry);
    }
    return out;
}

bool around(const Bounds& outer, const Bounds& inner) {
    for (int c = 0; c < 3; ++c)
        if (inner.min[c] < outer.min[c] || inner.max[c] > outer.max[c]) return false;
    return true;
}

/// The smallest of the shells that bound from outside around this one; their count where there is none.
std::size_t surrounding(const std::vector<Shell>& shells, const Shell& hollow) {
    std::size_t best = shells.size();
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < shells.size(); ++i) {
        const Shell& shell = shells[i];
        if (!(shell.volume > 0) || shell.volume >= least || !around(shell.bounds, hollow.bounds)) continue;
        if (InsideTest(shell.geometry).inside(hollow.geometry.positions().front())) best = i, least = shell.volume;
    }
    return best;
}

}  // namespace

std::vector<Body> bodiesOf(const Geometry& closed) {
    const std::vector<Shell> shells = shellsOf(closed);
    std::vector<std::size_t> bodyOf(shells.size());
    for (std::size_t i = 0; i < shells.size(); ++i) {
        const std::size_t outer = shells[i].volume < 0 ? surrounding(shells, shells[i]) : shells.size();
        bodyOf[i] = outer < shells.size() ? outer : i;
    }
    std::vector<Body> out;
    std::vector<std::uint8_t> wrongSide;
    std::map<std::size_t, std::size_t> number;
    for (std::size_t i = 0; i < shells.size(); ++i) {
        const auto [it, isNew] = number.try_emplace(bodyOf[i], out.size());
        if (isNew) out.emplace_back(), wrongSide.push_back(bodyOf[i] == i && shells[i].volume < 0);
        auto& faces = out[it->second].faces;
        faces.insert(faces.end(), shells[i].faces.begin(), shells[i].faces.end());
    }
    PartTaker taker(closed);
    for (std::size_t b = 0; b < out.size(); ++b) {
        std::sort(out[b].faces.begin(), out[b].faces.end());
        for (Index f : out[b].faces) taker.addFace(f);
        out[b].geometry = taker.take();
        out[b].geometry.setCopies(nullptr);
        if (wrongSide[b]) out[b].geometry = flipped(out[b].geometry, std::vector<std::uint8_t>(out[b].faces.size(), 1));
    }
    return out;
}

}  // namespace seedloom
