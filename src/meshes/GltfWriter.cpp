// glTF 2.0 (Khronos glTF 2.0 specification; chapter 4, "GLB File Format", for the binary form). As text, the data is in the JSON, so that it stays one file.
// Copies are written as instances (EXT_mesh_gpu_instancing), a mesh for each shape.
#include "geometry/Bake.h"
#include "meshes/GltfFile.h"
#include "meshes/GltfPlace.h"
#include "meshes/MeshFile.h"

namespace seedloom {

namespace {

class GltfWriter {
public:
    explicit GltfWriter(const Geometry& in) : parts_(withShapes(in)), file_(sharedList(parts_)) {
        addOwn();
        if (in.copies()) addCopies(*in.copies());
    }
    const GltfFile& file() const { return file_; }

private:
    /// The geometry itself, then the shapes of its copies, with one list of materials for all.
    static std::vector<Geometry> withShapes(const Geometry& in) {
        std::vector<Geometry> out{in};
        if (in.copies())
            for (const auto& shape : in.copies()->shapes) out.push_back(bakeCopies(*shape));
        return withSharedMaterials(out);
    }
    static std::vector<Material> sharedList(const std::vector<Geometry>& parts) {
        for (const Geometry& part : parts)
            if (auto list = materialsOf(part); !list.empty()) return list;
        return {};
    }

    void addOwn() {
        const Json primitives = file_.data().primitivesOf(parts_.front());
        if (primitives.empty()) return;
        file_.addNode({{"mesh", file_.addMesh(primitives)}});
    }

    /// Copies that show the same shape in the same material share a mesh and a node.
    void addCopies(const Copies& copies) {
        const auto* materials = parts_.front().values<std::int32_t>(Element::copy, "material");
        std::map<std::pair<Index, std::int32_t>, std::vector<Index>> groups;
        for (Index i = 0; i < copies.place.size(); ++i) groups[{copies.shapeOf[i], materials ? (*materials)[i] : -1}].push_back(i);
        std::map<Index, Json> primitives;
        for (const auto& [group, rows] : groups) {
            const auto [it, fresh] = primitives.emplace(group.first, Json());
            if (fresh) it->second = file_.data().primitivesOf(parts_[group.first + 1]);
            if (!it->second.empty()) addGroup(copies, rows, file_.addMesh(it->second, materials ? std::optional(group.second) : std::nullopt));
        }
    }

    void addGroup(const Copies& copies, const std::vector<Index>& rows, std::size_t mesh) {
        VertexColumn moves{"TRANSLATION", 3, {}}, turns{"ROTATION", 4, {}}, sizes{"SCALE", 3, {}};
        std::vector<Index> instanced;
        for (Index row : rows) {
            const auto place = gltfPlaceOf(copies.place[row]);
            if (!place) {
                // Leaning frames have no turn and size; they are written as they are.
                file_.addNode({{"mesh", mesh}, {"matrix", gltfMatrix(copies.place[row])}});
                continue;
            }
            instanced.push_back(row);
            moves.values.insert(moves.values.end(), {place->move.x, place->move.y, place->move.z});
            turns.values.insert(turns.values.end(), {place->turn.x, place->turn.y, place->turn.z, place->turn.w});
            sizes.values.insert(sizes.values.end(), {place->size.x, place->size.y, place->size.z});
        }
        if (instanced.empty()) return;
        Json attributes = Json::object();
        for (const VertexColumn* column : {&moves, &turns, &sizes}) attributes[column->name] = file_.data().addFloats(*column, false);
        for (const auto& [name, column] : parts_.front().table(Element::copy)) {
            const int components = componentCount(column.type());
            if (components == 0) continue;
            VertexColumn values{"_" + upperCase(name), components, {}};
            for (Index row : instanced)
                for (int c = 0; c < components; ++c) values.values.push_back(float(column.component(row, c)));
            attributes[values.name] = file_.data().addFloats(values, false);
        }
        file_.addNode({{"mesh", mesh}, {"extensions", {{kInstancing, {{"attributes", std::move(attributes)}}}}}});
        file_.requireExtension(kInstancing);
    }

    static std::string upperCase(const std::string& name) {
        std::string out;
        for (unsigned char c : name) out += std::isalnum(c) ? static_cast<char>(std::toupper(c)) : '_';
        return out;
    }

    std::vector<Geometry> parts_;
    GltfFile file_;
};

}  // namespace

std::string glbToBytes(const Geometry& geometry) { return GltfWriter(geometry).file().binary(); }

std::string gltfToText(const Geometry& geometry) { return GltfWriter(geometry).file().text(); }

}  // namespace seedloom
