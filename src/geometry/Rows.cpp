#include "geometry/Rows.h"

#include "geometry/ColumnJoin.h"
#include "geometry/Materials.h"
#include "geometry/Turning.h"

namespace seedloom {

namespace {

void gatherTable(const Geometry& from, Geometry& to, Element element, const std::vector<Index>& rows) {
    for (const auto& [name, column] : from.table(element))
        if (element != Element::point || name != "position") to.setColumn(element, name, gather(column, rows));
}

Column joinColumns(const std::vector<Geometry>& parts, Element element, const std::string& name, const Column& like) {
    return std::visit(
        [&](const auto& sample) -> Column {
            using T = typename std::decay_t<decltype(*sample)>::value_type;
            std::vector<T> out;
            for (const Geometry& part : parts) {
                const std::size_t rows = part.count(element);
                const Column* column = part.column(element, name);
                if (!column) {
                    if constexpr (std::is_same_v<T, Vec3>)
                        if (name == "normal") {
                            const auto normals = ownNormals(part, element);
                            out.insert(out.end(), normals.begin(), normals.end());
                            continue;
                        }
                    out.resize(out.size() + rows, missingValue<T>(name));
                } else if (const auto* same = column->as<T>()) {
                    out.insert(out.end(), same->begin(), same->end());
                } else {
                    for (std::size_t i = 0; i < rows; ++i) out.push_back(convertRow<T>(*column, i));
                }
            }
            return Column(std::move(out));
        },
        like.data());
}

void append(std::vector<Index>& to, const std::vector<Index>& from, std::size_t skip, std::size_t shift) {
    for (std::size_t i = skip; i < from.size(); ++i) to.push_back(from[i] + static_cast<Index>(shift));
}

std::shared_ptr<const Copies> joinCopies(const std::vector<Geometry>& parts) {
    auto out = std::make_shared<Copies>();
    for (const Geometry& part : parts) {
        const Copies* copies = part.copies();
        if (!copies) continue;
        append(out->shapeOf, copies->shapeOf, 0, out->shapes.size());
        out->shapes.insert(out->shapes.end(), copies->shapes.begin(), copies->shapes.end());
        out->place.insert(out->place.end(), copies->place.begin(), copies->place.end());
    }
    return out->place.empty() ? nullptr : out;
}

}  // namespace

Column mixRows(const Column& column, const std::vector<Index>& a, const std::vector<Index>& b, const std::vector<float>& t) {
    return std::visit(
        [&](const auto& shared) -> Column {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            std::vector<T> out(a.size());
            for (std::size_t i = 0; i < out.size(); ++i) {
                const T &low = (*shared)[a[i]], &high = (*shared)[b[i]];
                if constexpr (std::is_same_v<T, std::string> || std::is_same_v<T, std::uint8_t>) out[i] = t[i] < 0.5f ? low : high;
                else if constexpr (std::is_same_v<T, std::int32_t>)
                    out[i] = static_cast<T>(std::floor(double(low) * (1 - double(t[i])) + double(high) * double(t[i]) + 0.5));
                else out[i] = low * (1 - t[i]) + high * t[i];
            }
            return Column(std::move(out));
        },
        column.data());
}

Geometry takeRows(const Geometry& from, RowPlan plan) {
    std::vector<Vec3> positions(plan.points.size());
    for (std::size_t i = 0; i < positions.size(); ++i) positions[i] = from.positions()[plan.points[i]];
    const std::size_t points = positions.size();
    Geometry out(std::move(positions), Topology(points, std::move(plan.faceStart), std::move(plan.cornerPoint), std::move(plan.curveStart),
                                                std::move(plan.curvePoint), std::move(plan.curveClosed)));
    gatherTable(from, out, Element::point, plan.points);
    gatherTable(from, out, Element::corner, plan.corners);
    gatherTable(from, out, Element::face, plan.faces);
    gatherTable(from, out, Element::curve, plan.curves);
    for (const auto& [name, column] : from.table(Element::model)) out.setColumn(Element::model, name, column);
    if (from.copies()) {
        out.setCopies(from.sharedCopies());
        for (const auto& [name, column] : from.table(Element::copy)) out.setColumn(Element::copy, name, column);
    }
    return out;
}

Geometry combine(const std::vector<Geometry>& given) {
    if (given.empty()) return {};
    if (given.size() == 1) return given.front();
    const std::vector<Geometry> parts = withSharedMaterials(given);
    std::vector<Vec3> positions;
    std::vector<Index> faceStart{0}, cornerPoint, curveStart{0}, curvePoint;
    std::vector<std::uint8_t> closed;
    for (const Geometry& part : parts) {
        const Topology& t = part.topology();
        const std::size_t points = positions.size();
        append(faceStart, t.faceStart(), 1, cornerPoint.size());
        append(cornerPoint, t.cornerPoint(), 0, points);
        append(curveStart, t.curveStart(), 1, curvePoint.size());
        append(curvePoint, t.curvePoint(), 0, points);
        closed.insert(closed.end(), t.curveClosed().begin(), t.curveClosed().end());
        positions.insert(positions.end(), part.positions().begin(), part.positions().end());
    }
    const std::size_t points = positions.size();
    Geometry out(std::move(positions),
                 Topology(points, std::move(faceStart), std::move(cornerPoint), std::move(curveStart), std::move(curvePoint), std::move(closed)));
    if (auto copies = joinCopies(parts)) out.setCopies(std::move(copies));
    for (Element element : kAllElements) {
        for (const Geometry& part : parts) {
            for (const auto& [name, column] : part.table(element)) {
                if (out.column(element, name)) continue;
                if (element == Element::model) out.setColumn(element, name, column);
                else if (out.count(element) > 0) out.setColumn(element, name, joinColumns(parts, element, name, column));
            }
        }
    }
    return out;
}

Geometry takeCopies(const Geometry& geometry, const std::vector<Index>& rows) {
    Geometry out = geometry;
    if (!geometry.copies()) return out;
    const Copies& all = *geometry.copies();
    auto kept = std::make_shared<Copies>();
    std::vector<Index> number(all.shapes.size(), ~0u);
    kept->shapeOf.reserve(rows.size()), kept->place.reserve(rows.size());
    for (Index row : rows) {
        Index& shape = number[all.shapeOf[row]];
        if (shape == ~0u) shape = Index(kept->shapes.size()), kept->shapes.push_back(all.shapes[all.shapeOf[row]]);
        kept->shapeOf.push_back(shape);
        kept->place.push_back(all.place[row]);
    }
    out.setCopies(rows.empty() ? nullptr : std::move(kept));
    if (!rows.empty())
        for (const auto& [name, column] : geometry.table(Element::copy)) out.setColumn(Element::copy, name, gather(column, rows));
    return out;
}

Geometry transformed(const Geometry& geometry, const Affine& map) {
    Geometry out = geometry;
    std::vector<Vec3> positions = geometry.positions();
    for (Vec3& p : positions) p = map.point(p);
    out.setPositions(std::move(positions));
    for (Element element : {Element::point, Element::corner, Element::face, Element::curve}) {
        for (const char* name : kTurningNames) {
            const auto* vectors = geometry.values<Vec3>(element, name);
            if (!vectors) continue;
            std::vector<Vec3> after = *vectors;
            for (Vec3& v : after) v = turned(map, turnsOf(name), v);
            out.setColumn(element, name, Column(std::move(after)));
        }
    }
    if (const Copies* copies = geometry.copies()) {
        auto moved = std::make_shared<Copies>(*copies);
        for (Affine& place : moved->place) place = map * place;
        out.setCopies(std::move(moved));
        for (const auto& [name, column] : geometry.table(Element::copy)) out.setColumn(Element::copy, name, column);
    }
    if (!map.mirrors() || geometry.faceCount() == 0) return out;
    // A mirrored face shows its back: reverse its corners, but not the normals, which were mapped above.
    Geometry outward = flipped(out, std::vector<std::uint8_t>(out.faceCount(), 1));
    for (Element element : {Element::point, Element::corner, Element::face})
        if (const Column* normals = outward.column(element, "normal"))
            if (const auto* values = normals->as<Vec3>()) {
                std::vector<Vec3> back = *values;
                for (Vec3& n : back) n = -n;
                outward.setColumn(element, "normal", Column(std::move(back)));
            }
    return outward;
}

Geometry flipped(const Geometry& geometry, const std::vector<std::uint8_t>& which) {
    const Topology& t = geometry.topology();
    std::vector<Index> rows(geometry.cornerCount()), cornerPoint(geometry.cornerCount());
    std::vector<std::uint8_t> pointTurned(geometry.pointCount(), 0);
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) {
        const Index begin = t.faceStart()[f], size = t.faceStart()[f + 1] - begin;
        for (Index i = 0; i < size; ++i) rows[begin + i] = begin + (which[f] ? (size - i) % size : i);
        if (which[f])
            for (Index p : t.face(f)) pointTurned[p] = 1;
    }
    for (std::size_t c = 0; c < rows.size(); ++c) cornerPoint[c] = t.cornerPoint()[rows[c]];
    Geometry out(geometry.positions(), Topology(geometry.pointCount(), t.faceStart(), std::move(cornerPoint), t.curveStart(), t.curvePoint(), t.curveClosed()));
    if (geometry.copies()) out.setCopies(geometry.sharedCopies());
    for (Element element : kAllElements)
        for (const auto& [name, column] : geometry.table(element)) out.setColumn(element, name, element == Element::corner ? gather(column, rows) : column);
    const auto negate = [&](Element element, auto&& turned) {
        const auto* normals = out.values<Vec3>(element, "normal");
        if (!normals) return;
        std::vector<Vec3> changed = *normals;
        for (std::size_t i = 0; i < changed.size(); ++i)
            if (turned(i)) changed[i] = -changed[i];
        out.setColumn(element, "normal", Column(std::move(changed)));
    };
    negate(Element::point, [&](std::size_t i) { return pointTurned[i] != 0; });
    negate(Element::face, [&](std::size_t i) { return which[i] != 0; });
    negate(Element::corner, [&](std::size_t i) { return which[t.faceOfCorner()[i]] != 0; });
    return out;
}

}  // namespace seedloom
