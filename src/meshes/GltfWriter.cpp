// glTF 2.0 (Khronos glTF 2.0 specification; chapter 4, "GLB File Format", for the binary form). As text, the data is in the JSON, so that it stays one file.
// Copies are written as instances (EXT_mesh_gpu_instancing), a mesh for each shape.
#include "geometry/Bake.h"
#include "geometry/Materials.h"
#include "meshes/Base64.h"
#include "meshes/GltfMeshes.h"
#include "meshes/GltfPlace.h"
#include "meshes/MeshFile.h"

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

class GltfWriter {
public:
    explicit GltfWriter(const Geometry& in) : parts_(withShapes(in)) {
        for (const Geometry& part : parts_)
            if (materialList_.empty()) materialList_ = materialsOf(part);
        addOwn();
        if (in.copies()) addCopies(*in.copies());
    }

    std::string binary() const { return pack(); }
    std::string text() const {
        Json root = described();
        if (!data_.binary().empty()) root["buffers"][0]["uri"] = "data:application/octet-stream;base64," + base64Encoded(data_.binary());
        return root.dump(1) + "\n";
    }

private:
    /// The geometry itself, then the shapes of its copies, with one list of materials for all.
    static std::vector<Geometry> withShapes(const Geometry& in) {
        std::vector<Geometry> out{in};
        if (in.copies())
            for (const auto& shape : in.copies()->shapes) out.push_back(bakeCopies(*shape));
        return withSharedMaterials(out);
    }

    void addOwn() {
        const Json primitives = data_.primitivesOf(parts_.front());
        if (primitives.empty()) return;
        nodes_.push_back({{"mesh", addMesh(primitives, {})}});
    }

    /// The number in the file of a material's number in the list; those below 0 are none.
    void setMaterial(Json& primitive, std::optional<std::int32_t> fallback) {
        std::optional<std::int32_t> number = fallback;
        if (primitive.contains("material")) number = primitive["material"].get<std::int32_t>(), primitive.erase("material");
        if (!number || *number < 0) return;
        const auto [it, fresh] = materialNumber_.emplace(*number, materials_.size());
        if (fresh) materials_.push_back(materialJson(materialAt(materialList_, *number)));
        primitive["material"] = it->second;
    }
    std::size_t addMesh(Json primitives, std::optional<std::int32_t> material) {
        for (Json& primitive : primitives) setMaterial(primitive, material);
        meshes_.push_back({{"primitives", std::move(primitives)}});
        return meshes_.size() - 1;
    }

    /// Copies that show the same shape in the same material share a mesh and a node.
    void addCopies(const Copies& copies) {
        const auto* materials = parts_.front().values<std::int32_t>(Element::copy, "material");
        std::map<std::pair<Index, std::int32_t>, std::vector<Index>> groups;
        for (Index i = 0; i < copies.place.size(); ++i) groups[{copies.shapeOf[i], materials ? (*materials)[i] : -1}].push_back(i);
        std::map<Index, Json> primitives;
        for (const auto& [group, rows] : groups) {
            const auto [it, fresh] = primitives.emplace(group.first, Json());
            if (fresh) it->second = data_.primitivesOf(parts_[group.first + 1]);
            if (!it->second.empty()) addGroup(copies, rows, addMesh(it->second, materials ? std::optional(group.second) : std::nullopt));
        }
    }

    void addGroup(const Copies& copies, const std::vector<Index>& rows, std::size_t mesh) {
        VertexColumn moves{"TRANSLATION", 3, {}}, turns{"ROTATION", 4, {}}, sizes{"SCALE", 3, {}};
        std::vector<Index> instanced;
        for (Index row : rows) {
            const auto place = gltfPlaceOf(copies.place[row]);
            if (!place) {
                // Leaning frames have no turn and size; they are written as they are.
                nodes_.push_back({{"mesh", mesh}, {"matrix", gltfMatrix(copies.place[row])}});
                continue;
            }
            instanced.push_back(row);
            moves.values.insert(moves.values.end(), {place->move.x, place->move.y, place->move.z});
            turns.values.insert(turns.values.end(), {place->turn.x, place->turn.y, place->turn.z, place->turn.w});
            sizes.values.insert(sizes.values.end(), {place->size.x, place->size.y, place->size.z});
        }
        if (instanced.empty()) return;
        Json attributes = Json::object();
        for (const VertexColumn* column : {&moves, &turns, &sizes}) attributes[column->name] = data_.addFloats(*column, false);
        for (const auto& [name, column] : parts_.front().table(Element::copy)) {
            const int components = componentCount(column.type());
            if (components == 0) continue;
            VertexColumn values{"_" + upperCase(name), components, {}};
            for (Index row : instanced)
                for (int c = 0; c < components; ++c) values.values.push_back(float(column.component(row, c)));
            attributes[values.name] = data_.addFloats(values, false);
        }
        nodes_.push_back({{"mesh", mesh}, {"extensions", {{kInstancing, {{"attributes", std::move(attributes)}}}}}});
        instances_ = true;
    }

    static std::string upperCase(const std::string& name) {
        std::string out;
        for (unsigned char c : name) out += std::isalnum(c) ? static_cast<char>(std::toupper(c)) : '_';
        return out;
    }

    Json described() const {
        Json root{{"asset", {{"version", "2.0"}, {"generator", "Seed Loom"}}}, {"scene", 0}};
        if (nodes_.empty()) {
            root["scenes"] = Json::array({Json::object()});
            return root;
        }
        if (instances_) root["extensionsUsed"] = root["extensionsRequired"] = Json::array({kInstancing});
        Json all = Json::array();
        for (std::size_t n = 0; n < nodes_.size(); ++n) all.push_back(n);
        root["scenes"] = Json::array({{{"nodes", std::move(all)}}});
        root["nodes"] = nodes_;
        root["meshes"] = meshes_;
        if (!materials_.empty()) root["materials"] = materials_;
        root["buffers"] = Json::array({{{"byteLength", data_.binary().size()}}});
        root["bufferViews"] = data_.views();
        root["accessors"] = data_.accessors();
        return root;
    }

    std::string pack() const {
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

    std::vector<Geometry> parts_;
    std::vector<Material> materialList_;
    std::map<std::int32_t, std::size_t> materialNumber_;
    GltfData data_;
    bool instances_ = false;
    Json nodes_ = Json::array(), meshes_ = Json::array(), materials_ = Json::array();
};

}  // namespace

std::string glbToBytes(const Geometry& geometry) { return GltfWriter(geometry).binary(); }

std::string gltfToText(const Geometry& geometry) { return GltfWriter(geometry).text(); }

}  // namespace seedloom
