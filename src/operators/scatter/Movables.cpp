#include "operators/scatter/Movables.h"

#include "geometry/Bake.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/Turning.h"
#include "operators/Shapes.h"

namespace seedloom {

Movables::Movables(const Geometry& geometry) : geometry_(geometry) {
    if (const Copies* copies = geometry.copies()) {
        kind_ = Kind::copies;
        count_ = copies->place.size();
        for (const auto& shape : copies->shapes) shapePoints_.push_back(bakeCopies(*shape).positions());
        return;
    }
    count_ = geometry.pointCount();
    if (geometry.faceCount() == 0 && geometry.curveCount() == 0) return;
    kind_ = Kind::pieces;
    const Connection& connection = geometry.topology().connection();
    points_.resize(connection.parts);
    for (Index p = 0; p < geometry.pointCount(); ++p) points_[connection.pieceOfPoint[p]].push_back(p);
    count_ = points_.size();
    for (const auto& points : points_) {
        Bounds bounds;
        for (Index p : points) bounds.add(geometry.positions()[p]);
        middles_.push_back(bounds.centre());
    }
}

Vec3 Movables::pivot(std::size_t item) const {
    return kind_ == Kind::copies ? geometry_.copies()->place[item].move : kind_ == Kind::pieces ? middles_[item] : geometry_.positions()[item];
}

Vec3 Movables::up(std::size_t item) const { return kind_ == Kind::copies ? normalized(geometry_.copies()->place[item].y) : Vec3{0, 1, 0}; }

double Movables::id(std::size_t item) const {
    if (const Column* ids = geometry_.column(element(), "id")) return ids->component(row(item), 0);
    return double(item);
}

std::size_t Movables::pointCount(std::size_t item) const {
    return kind_ == Kind::copies ? shapePoints_[geometry_.copies()->shapeOf[item]].size() : kind_ == Kind::pieces ? points_[item].size() : 1;
}

Geometry Movables::moved(const std::vector<Affine>& maps) const {
    if (kind_ == Kind::copies) {
        Geometry out = geometry_;
        auto copies = std::make_shared<Copies>(*geometry_.copies());
        for (std::size_t i = 0; i < maps.size(); ++i) copies->place[i] = maps[i] * copies->place[i];
        out.setCopies(std::move(copies));
        for (const auto& [name, column] : geometry_.table(Element::copy)) out.setColumn(Element::copy, name, column);
        return out;
    }
    std::vector<Index> item(geometry_.pointCount());
    for (Index p = 0; p < item.size(); ++p) item[p] = kind_ == Kind::pieces ? geometry_.topology().connection().pieceOfPoint[p] : p;
    return movedParts(geometry_, item, maps);
}

Geometry Movables::kept(const std::vector<std::uint8_t>& keep) const {
    if (kind_ == Kind::copies) {
        std::vector<Index> rows;
        for (Index i = 0; i < keep.size(); ++i)
            if (keep[i]) rows.push_back(i);
        return takeCopies(geometry_, rows);
    }
    const Topology& t = geometry_.topology();
    const auto stays = [&](Index p) { return keep[kind_ == Kind::pieces ? t.connection().pieceOfPoint[p] : p] != 0; };
    PartTaker left(geometry_);
    for (Index f = 0; f < t.faceCount(); ++f)
        if (!t.face(f).empty() && stays(t.face(f)[0])) left.addFace(f);
    for (Index c = 0; c < t.curveCount(); ++c)
        if (!t.curve(c).empty() && stays(t.curve(c)[0])) left.addCurve(c, {t.curve(c).begin(), t.curve(c).end()});
    std::vector<std::uint8_t> used(geometry_.pointCount(), 0);
    for (Index p : t.cornerPoint()) used[p] = 1;
    for (Index p : t.curvePoint()) used[p] = 1;
    for (Index p = 0; p < used.size(); ++p)
        if (!used[p] && stays(p)) left.addPoint(p);
    return left.take();
}

}  // namespace seedloom
