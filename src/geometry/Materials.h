#pragma once
// Materials by number: the attribute `material` of faces, copies or points is a number into a list that the model carries.
#include "geometry/Geometry.h"

namespace seedloom {

/// As glTF's metallic-roughness material: linear colour, both factors 0–1.
struct Material {
    std::string name;
    Vec3 color{0.8f, 0.77f, 0.70f};
    float roughness = 0.7f, metalness = 0;
    bool operator==(const Material&) const = default;
};

/// The list that a geometry carries in the model attribute `materials`; empty where there is none, or none that can be read.
std::vector<Material> materialsOf(const Geometry& geometry);
/// An empty list takes the attribute away.
void setMaterials(Geometry& geometry, const std::vector<Material>& materials);

/// The material with that number; one with a name of its own and a colour that differs from its neighbours' where the list is shorter.
Material materialAt(const std::vector<Material>& materials, std::int32_t number);

/// Adds those of `more` that `to` lacks; gives the new number of each of `more`.
std::vector<std::int32_t> addMaterials(std::vector<Material>& to, const std::vector<Material>& more);
/// `column` with its numbers replaced; those that `renamed` does not know stay.
Column renumberedMaterials(const Column& column, const std::vector<std::int32_t>& renamed);
/// The parts with one list of materials for all, their numbers made to fit it. Parts without a list keep their numbers.
std::vector<Geometry> withSharedMaterials(const std::vector<Geometry>& parts);

}  // namespace seedloom
