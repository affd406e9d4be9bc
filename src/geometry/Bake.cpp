#include "geometry/Bake.h"

#include "geometry/ColumnJoin.h"
#include "geometry/Materials.h"
#include "geometry/Rows.h"
#include "geometry/Turning.h"

#include <limits>
#include <optional>
#include <set>
#include <stdexcept>

namespace seedloom {

namespace {

std::uint64_t plus(std::uint64_t a, std::uint64_t b) {
    return a > std::numeric_limits<std::uint64_t>::max() - b ? std::numeric_limits<std::uint64_t>::max() : a + b;
}

void add(ElementCounts& to, const ElementCounts& more) {
    to = {plus(to.points, more.points), plus(to.corners, more.corners), plus(to.faces, more.faces), plus(to.triangles, more.triangles),
          plus(to.curves, more.curves)};
}

/// A shape that is placed, baked itself, with what its copies have in common.
struct Shape {
    Geometry baked;
    std::vector<std::int32_t> renamed;                                ///< its materials' numbers in the list of all
    mutable std::array<std::optional<std::vector<Vec3>>, 3> normals;  ///< computed ones of points, corners, faces
    const std::vector<Vec3>& normalsOf(Element element) const {
        auto& kept = normals[std::size_t(element)];
        if (!kept) kept = ownNormals(baked, element);
        return *kept;
    }
};

class Baking {
public:
    explicit Baking(const Geometry& from) : from_(from), copies_(*from.copies()) {
        materials_ = materialsOf(from);
        std::vector<std::uint8_t> used(copies_.shapes.size(), 0);
        shapes_.resize(copies_.shapes.size());
        for (Index shape : copies_.shapeOf) {
            if (used[shape]++) continue;
            order_.push_back(shape);
            shapes_[shape].baked = bakeCopies(*copies_.shapes[shape]);
            shapes_[shape].renamed = addMaterials(materials_, materialsOf(shapes_[shape].baked));
        }
        mirrored_.resize(copies_.place.size());
        for (std::size_t i = 0; i < mirrored_.size(); ++i) mirrored_[i] = copies_.place[i].mirrors();
    }

    Geometry run() {
        Geometry out(positions(), topology());
        for (Element element : {Element::point, Element::corner, Element::face, Element::curve})
            if (out.count(element) > 0)
                for (const std::string& name : names(element)) out.setColumn(element, name, joined(element, name));
        for (const auto& [name, column] : from_.table(Element::model)) out.setColumn(Element::model, name, column);
        for (Index shape : order_)
            for (const auto& [name, column] : shapes_[shape].baked.table(Element::model))
                if (!out.column(Element::model, name)) out.setColumn(Element::model, name, column);
        if (!materials_.empty()) setMaterials(out, materials_);
        return out;
    }

private:
    const Geometry& shape(std::size_t copy) const { return shapes_[copies_.shapeOf[copy]].baked; }
    std::size_t copies() const { return copies_.place.size(); }

    std::vector<Vec3> positions() const {
        std::vector<Vec3> out = from_.positions();
        out.reserve(std::size_t(bakedCounts(from_).points));
        for (std::size_t i = 0; i < copies(); ++i)
            for (Vec3 p : shape(i).positions()) out.push_back(copies_.place[i].point(p));
        return out;
    }

    /// The corner of the shape that stands at place `k` of a face's corners; a mirrored face runs backwards from its first corner.
    static Index cornerAt(const Topology& t, std::size_t face, Index k, bool mirrored) {
        const Index begin = t.faceStart()[face], size = t.faceStart()[face + 1] - begin;
        return begin + (mirrored ? (size - k) % size : k);
    }

    Topology topology() const {
        const ElementCounts counts = bakedCounts(from_);
        const Topology& own = from_.topology();
        std::vector<Index> faceStart = own.faceStart(), cornerPoint = own.cornerPoint(), curveStart = own.curveStart(), curvePoint = own.curvePoint();
        std::vector<std::uint8_t> closed = own.curveClosed();
        faceStart.reserve(counts.faces + 1), cornerPoint.reserve(counts.corners);
        Index points = Index(from_.pointCount());
        for (std::size_t i = 0; i < copies(); ++i) {
            const Topology& t = shape(i).topology();
            for (std::size_t f = 0; f < t.faceCount(); ++f) {
                const Index size = t.faceStart()[f + 1] - t.faceStart()[f];
                for (Index k = 0; k < size; ++k) cornerPoint.push_back(points + t.cornerPoint()[cornerAt(t, f, k, mirrored_[i])]);
                faceStart.push_back(Index(cornerPoint.size()));
            }
            const auto before = Index(curvePoint.size());
            for (Index p : t.curvePoint()) curvePoint.push_back(points + p);
            for (std::size_t c = 1; c < t.curveStart().size(); ++c) curveStart.push_back(before + t.curveStart()[c]);
            closed.insert(closed.end(), t.curveClosed().begin(), t.curveClosed().end());
            points += Index(t.pointCount());
        }
        return Topology(points, std::move(faceStart), std::move(cornerPoint), std::move(curveStart), std::move(curvePoint), std::move(closed));
    }

    /// The copies' column that stands in where their shape has none.
    const Column* ofCopies(Element element, std::string_view name, const Geometry& shape) const {
        if (!takesFromCopies(element, shape) || !goesToElements(name)) return nullptr;
        return from_.column(Element::copy, name);
    }

    static bool takesFromCopies(Element element, const Geometry& shape) {
        return element == Element::face || (element == Element::point && shape.faceCount() == 0);
    }
    /// Where a copy stands and how it is turned says nothing about the directions of its faces.
    static bool goesToElements(std::string_view name) { return turnsOf(name) == Turns::not_at_all && name != "orientation" && name != "position"; }

    std::set<std::string> names(Element element) const {
        std::set<std::string> out;
        for (const auto& [name, column] : from_.table(element)) out.insert(name);
        for (Index s : order_) {
            const Geometry& shape = shapes_[s].baked;
            for (const auto& [name, column] : shape.table(element)) out.insert(name);
            if (!takesFromCopies(element, shape)) continue;
            for (const auto& [name, column] : from_.table(Element::copy))
                if (goesToElements(name)) out.insert(name);
        }
        out.erase("position");
        return out;
    }

    /// A column whose type the joined one has: the first in the order of parts.
    const Column& like(Element element, const std::string& name) const {
        if (const Column* own = from_.column(element, name)) return *own;
        for (Index s : order_) {
            if (const Column* column = shapes_[s].baked.column(element, name)) return *column;
            if (const Column* column = ofCopies(element, name, shapes_[s].baked)) return *column;
        }
        throw std::logic_error("no part has the column " + name);
    }

    Column joined(Element element, const std::string& name) const {
        return std::visit(
            [&](const auto& sample) -> Column {
                using T = typename std::decay_t<decltype(*sample)>::value_type;
                std::vector<T> out;
                std::size_t rows = from_.count(element);
                for (std::size_t i = 0; i < copies(); ++i) rows += shape(i).count(element);
                out.reserve(rows);
                if (const Column* own = from_.column(element, name)) appendColumn(out, *own);
                else if (!appendNormals(out, name, from_.count(element), [&] { return ownNormals(from_, element); }))
                    out.resize(from_.count(element), missingValue<T>(name));
                for (std::size_t i = 0; i < copies(); ++i) appendCopy(out, element, name, i);
                return Column(std::move(out));
            },
            like(element, name).data());
    }

    template <class T> static void appendColumn(std::vector<T>& out, const Column& column) {
        if (const auto* same = column.as<T>()) out.insert(out.end(), same->begin(), same->end());
        else
            for (std::size_t i = 0; i < column.size(); ++i) out.push_back(convertRow<T>(column, i));
    }

    template <class T> static bool appendNormals(std::vector<T>& out, const std::string& name, std::size_t rows, auto&& normals) {
        if constexpr (std::is_same_v<T, Vec3>) {
            if (name != "normal" || rows == 0) return false;
            const auto& values = normals();
            out.insert(out.end(), values.begin(), values.end());
            return true;
        } else {
            return false;
        }
    }

    template <class T> void appendCopy(std::vector<T>& out, Element element, const std::string& name, std::size_t copy) const {
        const Shape& shape = shapes_[copies_.shapeOf[copy]];
        const Geometry& g = shape.baked;
        const std::size_t first = out.size(), rows = g.count(element);
        Turns turns = turnsOf(name);
        if (const Column* own = g.column(element, name)) {
            appendColumn(out, name == "material" ? renumberedMaterials(*own, shape.renamed) : *own);
        } else if (const Column* given = ofCopies(element, name, g)) {
            T value{};
            if (const auto* same = given->as<T>()) value = (*same)[copy];
            else value = convertRow<T>(*given, copy);
            out.insert(out.end(), rows, value);
            turns = Turns::not_at_all;
        } else if (!appendNormals(out, name, rows, [&]() -> const std::vector<Vec3>& { return shape.normalsOf(element); })) {
            out.insert(out.end(), rows, missingValue<T>(name));
            turns = Turns::not_at_all;
        }
        if constexpr (std::is_same_v<T, Vec3>) {
            const Affine& place = copies_.place[copy];
            for (std::size_t i = first; i < out.size() && turns != Turns::not_at_all; ++i) out[i] = turned(place, turns, out[i]);
        }
        if (element == Element::corner && mirrored_[copy]) turnCorners(out, first, g.topology());
    }

    template <class T> static void turnCorners(std::vector<T>& out, std::size_t first, const Topology& t) {
        for (std::size_t f = 0; f < t.faceCount(); ++f) {
            const auto begin = out.begin() + std::ptrdiff_t(first + t.faceStart()[f]);
            const auto size = std::ptrdiff_t(t.faceStart()[f + 1] - t.faceStart()[f]);
            if (size > 1) std::reverse(begin + 1, begin + size);
        }
    }

    const Geometry& from_;
    const Copies& copies_;
    std::vector<Shape> shapes_;
    std::vector<Index> order_;  ///< shapes in the order of their first copy
    std::vector<std::uint8_t> mirrored_;
    std::vector<Material> materials_;
};

}  // namespace

ElementCounts bakedCounts(const Geometry& geometry) {
    ElementCounts out{geometry.pointCount(), geometry.cornerCount(), geometry.faceCount(), 0, geometry.curveCount()};
    const auto& start = geometry.topology().faceStart();
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) out.triangles += std::max<std::uint64_t>(start[f + 1] - start[f], 2) - 2;
    const Copies* copies = geometry.copies();
    if (!copies) return out;
    std::vector<std::optional<ElementCounts>> ofShape(copies->shapes.size());
    for (Index shape : copies->shapeOf) {
        if (!ofShape[shape]) ofShape[shape] = bakedCounts(*copies->shapes[shape]);
        add(out, *ofShape[shape]);
    }
    return out;
}

std::uint64_t facesWithCopies(const Geometry& geometry) {
    std::uint64_t out = geometry.faceCount();
    const Copies* copies = geometry.copies();
    if (!copies) return out;
    std::vector<std::optional<std::uint64_t>> ofShape(copies->shapes.size());
    for (Index shape : copies->shapeOf) {
        if (!ofShape[shape]) ofShape[shape] = facesWithCopies(*copies->shapes[shape]);
        if (out + *ofShape[shape] < out) return std::numeric_limits<std::uint64_t>::max();
        out += *ofShape[shape];
    }
    return out;
}

bool bakesEasily(const Geometry& geometry) {
    const ElementCounts counts = bakedCounts(geometry);
    return std::max(counts.corners, counts.points) <= kMostBakedUnasked;
}

Geometry withFewerCopies(const Geometry& geometry, std::uint64_t most) {
    const ElementCounts counts = bakedCounts(geometry);
    const std::uint64_t size = std::max(counts.corners, counts.points);
    if (size <= most || !geometry.copies()) return geometry;
    const std::uint64_t step = size / std::max<std::uint64_t>(most, 1) + 1;
    std::vector<Index> rows;
    for (std::uint64_t i = 0; i < geometry.copyCount(); i += step) rows.push_back(Index(i));
    return takeCopies(geometry, rows);
}

Geometry bakeCopies(const Geometry& geometry) {
    if (!geometry.copies()) return geometry;
    const ElementCounts counts = bakedCounts(geometry);
    if (std::max(counts.corners, counts.points) >= std::numeric_limits<Index>::max())
        throw std::length_error("The copies would have more corners than can be numbered.");
    return Baking(geometry).run();
}

}  // namespace seedloom
