#include "surface/LooseParts.h"

#include "geometry/Measures.h"

namespace seedloom {

LooseParts looseParts(const Geometry& geometry, double share) {
    const Topology& t = geometry.topology();
    const std::vector<Index>& pieceOf = t.connection().pieceOfPoint;
    std::vector<Bounds> bounds(t.connection().parts);
    std::vector<std::uint8_t> hasFace(bounds.size(), 0);
    for (Index p : t.cornerPoint()) bounds[pieceOf[p]].add(geometry.positions()[p]), hasFace[pieceOf[p]] = 1;
    double largest = 0;
    for (const Bounds& part : bounds) largest = std::max(largest, part.diagonal());
    LooseParts out;
    out.small.resize(t.faceCount());
    const auto isSmall = [&](Index part) { return hasFace[part] && bounds[part].diagonal() < share * largest; };
    for (Index part = 0; part < bounds.size(); ++part) out.parts += isSmall(part);
    for (Index f = 0; f < out.small.size(); ++f) out.small[f] = !t.face(f).empty() && isSmall(pieceOf[t.face(f).front()]);
    return out;
}

}  // namespace seedloom
