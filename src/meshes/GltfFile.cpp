#include "meshes/GltfFile.h"

#include "meshes/Base64.h"

#include <cmath>

namespace seedloom {

namespace {

Json materialJson(const Material& material) {
    // Colours are kept as they look on a screen; the format wants them linear.
    const auto linear = [](float v) { return double(v) <= 0.04045 ? double(v) / 12.92 : std::pow((double(v) + 0.055) / 1.055, 2.4); };
    return {{"name", material.name},
            {"pbrMetallicRoughness",
             {{"baseColorFactor", {linear(material.color.x), linear(material.color.y), linear(material.color.z), 1.0}},
              {"metallicFactor", material.metalness},
              {"roughnessFactor", material.roughness}}}};
}

}  // namespace

/// The number in the file of a material's number in the list.
void GltfFile::setMaterial(Json& primitive, std::optional<std::int32_t> fallback) {
    std::optional<std::int32_t> number = fallback;
    if (primitive.contains("material")) number = primitive["material"].get<std::int32_t>(), primitive.erase("material");
    if (!number || *number < 0) return;
    const auto [it, fresh] = materialNumber_.emplace(*number, materials_.size());
    if (fresh) materials_.push_back(materialJson(materialAt(materialList_, *number)));
    primitive["material"] = it->second;
}

std::size_t GltfFile::addMesh(Json primitives, std::optional<std::int32_t> material) {
    for (Json& primitive : primitives) setMaterial(primitive, material);
    meshes_.push_back({{"primitives", std::move(primitives)}});
    return meshes_.size() - 1;
}

std::size_t GltfFile::addNode(Json node) {
    nodes_.push_back(std::move(node));
    return nodes_.size() - 1;
}

std::string GltfFile::text() const {
    Json root = described();
    if (!data_.binary().empty()) root["buffers"][0]["uri"] = "data:application/octet-stream;base64," + base64Encoded(data_.binary());
    return root.dump(1) + "\n";
}

Json GltfFile::described() const {
    Json root{{"asset", {{"version", "2.0"}, {"generator", "Seed Loom"}}}, {"scene", 0}};
    if (nodes_.empty()) {
        root["scenes"] = Json::array({Json::object()});
        return root;
    }
    if (!extension_.empty()) root["extensionsUsed"] = root["extensionsRequired"] = Json::array({extension_});
    Json all = Json::array();
    for (std::size_t n = 0; n < nodes_.size(); ++n) all.push_back(n);
    root["scenes"] = Json::array({{{"nodes", std::move(all)}}});
    root["nodes"] = nodes_;
    root["meshes"] = meshes_;
    if (!materials_.empty()) root["materials"] = materials_;
    if (!animations_.empty()) root["animations"] = animations_;
    root["buffers"] = Json::array({{{"byteLength", data_.binary().size()}}});
    root["bufferViews"] = data_.views();
    root["accessors"] = data_.accessors();
    return root;
}

std::string GltfFile::binary() const {
    std::string json = described().dump();
    while (json.size() % 4) json += ' ';
    std::string out;
    const auto put = [&](std::uint32_t v) { out.append(reinterpret_cast<const char*>(&v), 4); };
    const std::size_t total = 12 + 8 + json.size() + (data_.binary().empty() ? 0 : 8 + data_.binary().size());
    put(0x46546C67), put(2), put(static_cast<std::uint32_t>(total));
    put(static_cast<std::uint32_t>(json.size())), put(0x4E4F534A);
    out += json;
    if (!data_.binary().empty()) {
        put(static_cast<std::uint32_t>(data_.binary().size())), put(0x004E4942);
        out += data_.binary();
    }
    return out;
}

}  // namespace seedloom
