#include "geometry/Materials.h"

#include "geometry/Json.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

const std::string* listText(const Geometry& geometry) {
    const auto* text = geometry.values<std::string>(Element::model, "materials");
    return text && !text->front().empty() ? &text->front() : nullptr;
}

float factor(const Json& json, const char* key, float fallback) {
    const auto it = json.find(key);
    return it != json.end() && it->is_number() ? std::clamp(it->get<float>(), 0.0f, 1.0f) : fallback;
}

}  // namespace

std::vector<Material> materialsOf(const Geometry& geometry) {
    std::vector<Material> out;
    const std::string* text = listText(geometry);
    const Json list = text ? Json::parse(*text, nullptr, false) : Json();
    if (!list.is_array()) return out;
    for (const Json& json : list) {
        Material material{fmt::format("material {}", out.size())};
        if (json.is_object()) {
            const auto name = json.find("name"), color = json.find("color");
            if (name != json.end() && name->is_string()) material.name = name->get<std::string>();
            if (color != json.end() && color->is_array() && color->size() >= 3)
                for (int c = 0; c < 3; ++c)
                    if ((*color)[std::size_t(c)].is_number()) material.color[c] = std::clamp((*color)[std::size_t(c)].get<float>(), 0.0f, 1.0f);
            material.roughness = factor(json, "roughness", material.roughness);
            material.metalness = factor(json, "metalness", material.metalness);
        }
        out.push_back(std::move(material));
    }
    return out;
}

void setMaterials(Geometry& geometry, const std::vector<Material>& materials) {
    if (materials.empty()) return geometry.removeColumn(Element::model, "materials");
    Json list = Json::array();
    for (const Material& m : materials)
        list.push_back({{"name", m.name}, {"color", {m.color.x, m.color.y, m.color.z}}, {"roughness", m.roughness}, {"metalness", m.metalness}});
    geometry.setColumn(Element::model, "materials", Column(std::vector<std::string>{list.dump()}));
}

Material materialAt(const std::vector<Material>& materials, std::int32_t number) {
    if (number >= 0 && std::size_t(number) < materials.size()) return materials[std::size_t(number)];
    // Earthen tones that can be told apart, over and over.
    static constexpr std::array<Vec3, 6> tones{
        {{0.72f, 0.58f, 0.42f}, {0.38f, 0.50f, 0.55f}, {0.66f, 0.33f, 0.24f}, {0.50f, 0.55f, 0.34f}, {0.83f, 0.75f, 0.58f}, {0.36f, 0.30f, 0.30f}}};
    return {fmt::format("material {}", number), tones[std::size_t(number < 0 ? -(number + 1) : number) % tones.size()]};
}

std::vector<std::int32_t> addMaterials(std::vector<Material>& to, const std::vector<Material>& more) {
    std::vector<std::int32_t> out;
    for (const Material& material : more) {
        const auto same = std::find(to.begin(), to.end(), material);
        out.push_back(std::int32_t(same - to.begin()));
        if (same == to.end()) to.push_back(material);
    }
    return out;
}

Column renumberedMaterials(const Column& column, const std::vector<std::int32_t>& renamed) {
    const auto* numbers = column.as<std::int32_t>();
    if (!numbers) return column;
    std::vector<std::int32_t> out = *numbers;
    for (std::int32_t& number : out)
        if (number >= 0 && std::size_t(number) < renamed.size()) number = renamed[std::size_t(number)];
    return Column(std::move(out));
}

std::vector<Geometry> withSharedMaterials(const std::vector<Geometry>& parts) {
    const std::string* first = nullptr;
    bool differ = false;
    for (const Geometry& part : parts)
        if (const std::string* text = listText(part)) {
            differ |= first && *first != *text;
            if (!first) first = text;
        }
    if (!differ) return parts;
    std::vector<Geometry> out = parts;
    std::vector<Material> all;
    std::vector<std::vector<std::int32_t>> renamed;
    for (const Geometry& part : parts) renamed.push_back(addMaterials(all, materialsOf(part)));
    for (std::size_t i = 0; i < out.size(); ++i) {
        if (!listText(out[i])) continue;
        for (Element element : kAllElements)
            if (const Column* column = out[i].column(element, "material"); column && element != Element::model)
                out[i].setColumn(element, "material", renumberedMaterials(*column, renamed[i]));
        setMaterials(out[i], all);
    }
    return out;
}

}  // namespace seedloom
