#pragma once
// What is common to the glTF files that are written: meshes, nodes, materials and movements around one block of data.
#include "geometry/Materials.h"
#include "meshes/GltfMeshes.h"

#include <map>
#include <optional>

namespace seedloom {

class GltfFile {
public:
    /// What materials' numbers mean.
    explicit GltfFile(std::vector<Material> materials) : materialList_(std::move(materials)) {}

    GltfData& data() { return data_; }
    /// Numbers of what was added. `material`: of primitives that name none themselves, a number in the list; those below 0 are none.
    std::size_t addMesh(Json primitives, std::optional<std::int32_t> material = {});
    std::size_t addNode(Json node);
    void addAnimation(Json animation) { animations_.push_back(std::move(animation)); }
    /// Readers must know this one.
    void requireExtension(const char* name) { extension_ = name; }

    /// As one binary file (chapter 4 of the specification), or as text with its data in it.
    std::string binary() const;
    std::string text() const;

private:
    void setMaterial(Json& primitive, std::optional<std::int32_t> fallback);
    Json described() const;

    std::vector<Material> materialList_;
    std::map<std::int32_t, std::size_t> materialNumber_;
    GltfData data_;
    std::string extension_;
    Json nodes_ = Json::array(), meshes_ = Json::array(), materials_ = Json::array(), animations_ = Json::array();
};

}  // namespace seedloom
