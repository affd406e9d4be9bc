#include "geometry/ShownColours.h"

#include "geometry/ElementTransfer.h"
#include "geometry/Materials.h"

namespace seedloom {

std::optional<std::vector<Vec3>> materialColours(const Geometry& geometry, Element element, Vec3 without) {
    const auto* numbers = geometry.values<std::int32_t>(element, "material");
    if (!numbers) return {};
    const std::vector<Material> list = materialsOf(geometry);
    std::map<std::int32_t, Vec3> colour;
    std::vector<Vec3> out(numbers->size());
    for (std::size_t i = 0; i < out.size(); ++i) {
        const std::int32_t n = (*numbers)[i];
        const auto [it, fresh] = colour.try_emplace(n);
        if (fresh) it->second = n < 0 ? without : materialAt(list, n).color;
        out[i] = it->second;
    }
    return out;
}

std::optional<std::vector<Vec3>> shownColours(const Geometry& geometry, Vec3 without) {
    if (const auto found = findColumn(geometry, "color", Element::corner); found && componentCount(found->column.type()) >= 3) {
        const Column each = changeElement(geometry, found->column, found->element, Element::corner);
        std::vector<Vec3> out(each.size());
        for (std::size_t c = 0; c < out.size(); ++c) out[c] = {float(each.component(c, 0)), float(each.component(c, 1)), float(each.component(c, 2))};
        return out;
    }
    const auto ofFaces = materialColours(geometry, Element::face, without);
    if (!ofFaces) return {};
    std::vector<Vec3> out(geometry.cornerCount());
    const auto& faceOf = geometry.topology().faceOfCorner();
    for (std::size_t c = 0; c < out.size(); ++c) out[c] = (*ofFaces)[faceOf[c]];
    return out;
}

}  // namespace seedloom
