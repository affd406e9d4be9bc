// glTF 2.0, binary or as JSON with its data in the text or in files beside. Everything in the default scene is read, placed by its nodes; equal
// positions are joined.
#include "fields/Source.h"
#include "geometry/Bake.h"
#include "geometry/Materials.h"
#include "geometry/Rows.h"
#include "geometry/Weld.h"
#include "meshes/Base64.h"
#include "meshes/GltfPlace.h"
#include "meshes/MeshBuilder.h"
#include "meshes/MeshFile.h"

#include <algorithm>
#include <cstring>
#include <deque>
#include <map>

namespace seedloom {

namespace {

constexpr int kDeepestNodes = 256;
constexpr std::size_t kMostParts = 100000;

struct Wrong {
    std::string text;
};

std::uint32_t word(std::string_view bytes, std::size_t at) {
    std::uint32_t v = 0;
    std::memcpy(&v, bytes.data() + at, 4);
    return v;
}

/// Numbers of an accessor as floats.
struct Values {
    int components = 1;
    std::size_t count = 0;
    std::vector<float> data;
};

class GltfReader {
public:
    GltfReader(std::string_view bytes, std::filesystem::path folder, const FileSource& files) : bytes_(bytes), folder_(std::move(folder)), files_(files) {}

    Result<Geometry> run() {
        try {
            bytes_.substr(0, 4) == "glTF" ? readChunks() : parse(bytes_);
            readBuffers();
            readScene();
            if (parts_.empty()) return Geometry();
            Geometry out = weld(combine(parts_), 0).geometry;
            if (out.column(Element::face, "material")) setMaterials(out, materials());
            return out;
        } catch (const Wrong& wrong) {
            return Error{"mesh.format", fmt::format("The glTF file can't be read: {}.", wrong.text)};
        } catch (const Json::exception& error) {
            return Error{"mesh.format", fmt::format("The glTF file can't be read: its JSON is not as the standard says ({}).", error.what())};
        }
    }

private:
    void readChunks() {
        if (bytes_.size() < 20) throw Wrong{"it breaks off in its head"};
        if (word(bytes_, 4) != 2) throw Wrong{"only version 2 is known"};
        std::size_t at = 12;
        std::string_view json;
        while (at + 8 <= bytes_.size()) {
            const std::size_t size = word(bytes_, at), type = word(bytes_, at + 4);
            if (size > bytes_.size() - at - 8) throw Wrong{"a chunk is longer than the file"};
            if (type == 0x4E4F534A) json = bytes_.substr(at + 8, size);
            if (type == 0x004E4942) binary_ = bytes_.substr(at + 8, size);
            at += 8 + size;
        }
        parse(json);
    }

    void parse(std::string_view json) {
        bool tooDeep = false;
        root_ = Json::parse(json, [&](int depth, Json::parse_event_t, Json&) { return !(tooDeep |= depth > 64); });
        if (tooDeep || !root_.is_object()) throw Wrong{"its JSON is damaged"};
    }

    std::size_t number(const Json& from, const char* key, std::size_t fallback) const {
        const auto it = from.find(key);
        if (it == from.end()) return fallback;
        if (!it->is_number_unsigned()) throw Wrong{fmt::format("'{}' is no whole number", key)};
        return it->get<std::size_t>();
    }
    const Json& item(const char* list, std::size_t i) const {
        const auto it = root_.find(list);
        if (it == root_.end() || !it->is_array() || i >= it->size() || !(*it)[i].is_object()) throw Wrong{fmt::format("{}[{}] does not exist", list, i)};
        return (*it)[i];
    }

    /// The data of each buffer: the binary chunk, a data URI, or a file beside. No path leads out of the folder.
    void readBuffers() {
        std::size_t held = bytes_.size();
        const Json list = root_.value("buffers", Json::array());
        for (std::size_t i = 0; i < list.size(); ++i) {
            const std::string uri = item("buffers", i).value("uri", std::string());
            if (uri.empty()) {
                buffers_.emplace_back(i == 0 ? binary_ : std::string_view());
                continue;
            }
            owned_.push_back(uri.rfind("data:", 0) == 0 ? fromDataUri(uri) : fromFileBeside(uri));
            held += owned_.back().size();
            buffers_.emplace_back(owned_.back());
        }
        budget_ = held * 8 + 65536;
    }
    static std::string fromDataUri(const std::string& uri) {
        const std::size_t at = uri.find(";base64,");
        const auto decoded = at == std::string::npos ? std::nullopt : base64Decoded(std::string_view(uri).substr(at + 8));
        if (!decoded) throw Wrong{"the data in its text is no base64"};
        return *decoded;
    }
    std::string fromFileBeside(const std::string& uri) const {
        const std::filesystem::path name = percentDecoded(uri);
        const bool outside =
            name.is_absolute() || name.has_root_name() || std::find(name.begin(), name.end(), "..") != name.end() || uri.find("://") != std::string::npos;
        if (folder_.empty() || outside) throw Wrong{fmt::format("it keeps its data in '{}', which is not in its folder", uri)};
        const auto bytes = files_.read(folder_ / name);
        if (!bytes) throw Wrong{fmt::format("the file '{}' with its data can't be read; it must lie in the same folder", uri)};
        return *bytes;
    }

    void readScene() {
        if (!root_.contains("scenes")) {
            for (std::size_t m = 0; root_.contains("meshes") && m < root_["meshes"].size(); ++m) addMesh(m, Affine{});
            return;
        }
        const Json& scene = item("scenes", number(root_, "scene", 0));
        for (const Json& node : scene.value("nodes", Json::array())) readNode(node.get<std::size_t>(), Affine{}, 0);
    }

    void readNode(std::size_t i, const Affine& parent, int depth) {
        if (depth > kDeepestNodes || ++visited_ > kMostParts) throw Wrong{"its nodes are nested in a ring or too deeply"};
        const Json& node = item("nodes", i);
        const Affine place = parent * placeOf(node);
        const Json instances = node.value("extensions", Json::object()).value(kInstancing, Json());
        if (node.contains("mesh") && instances.is_object()) addInstances(number(node, "mesh", 0), place, instances.value("attributes", Json::object()));
        else if (node.contains("mesh")) addMesh(number(node, "mesh", 0), place);
        for (const Json& child : node.value("children", Json::array())) readNode(child.get<std::size_t>(), place, depth + 1);
    }

    template <std::size_t N> static std::array<float, N> floats(const Json& node, const char* key, std::array<float, N> fallback) {
        const auto it = node.find(key);
        if (it == node.end()) return fallback;
        if (!it->is_array() || it->size() != N) throw Wrong{fmt::format("'{}' needs {} numbers", key, N)};
        for (std::size_t c = 0; c < N; ++c) fallback[c] = (*it)[c].get<float>();
        return fallback;
    }

    static Affine placeOf(const Json& node) {
        if (node.contains("matrix")) {
            const auto m = floats<16>(node, "matrix", {});
            return {{m[0], m[1], m[2]}, {m[4], m[5], m[6]}, {m[8], m[9], m[10]}, {m[12], m[13], m[14]}};
        }
        const auto move = floats<3>(node, "translation", {0, 0, 0}), size = floats<3>(node, "scale", {1, 1, 1});
        const auto [x, y, z, w] = floats<4>(node, "rotation", {0, 0, 0, 1});
        return affineOf({{move[0], move[1], move[2]}, {size[0], size[1], size[2]}, {x, y, z, w}});
    }

    /// Every copy becomes a part of its own; what the file says of a copy goes to its faces.
    void addInstances(std::size_t mesh, const Affine& place, const Json& attributes) {
        std::map<std::string, Values> values;
        std::size_t count = 0;
        for (const auto& [name, index] : attributes.items()) {
            const Values& read = values[name] = accessor(index.get<std::size_t>());
            if (values.size() > 1 && read.count != count) throw Wrong{"the attributes of its instances differ in number"};
            count = read.count;
        }
        const auto at = [&](const char* name, int components, std::size_t i, int c, float fallback) {
            const auto it = values.find(name);
            if (it == values.end()) return fallback;
            if (it->second.components != components) throw Wrong{fmt::format("'{}' of its instances needs {} numbers", name, components)};
            return it->second.data[i * std::size_t(components) + std::size_t(c)];
        };
        const std::size_t before = parts_.size();
        addMesh(mesh, Affine{});
        auto copies = std::make_shared<Copies>();
        copies->shapes.push_back(std::make_shared<const Geometry>(combine({parts_.begin() + std::ptrdiff_t(before), parts_.end()})));
        parts_.resize(before);
        for (std::size_t i = 0; i < count; ++i) {
            const auto three = [&](const char* name, float fallback) {
                return Vec3{at(name, 3, i, 0, fallback), at(name, 3, i, 1, fallback), at(name, 3, i, 2, fallback)};
            };
            const Vec4 turn{at("ROTATION", 4, i, 0, 0), at("ROTATION", 4, i, 1, 0), at("ROTATION", 4, i, 2, 0), at("ROTATION", 4, i, 3, 1)};
            copies->place.push_back(place * affineOf({three("TRANSLATION", 0), three("SCALE", 1), turn}));
        }
        if (count == 0) return;
        copies->shapeOf.assign(count, 0);
        Geometry all;
        all.setCopies(std::move(copies));
        for (const auto& [name, read] : values)
            if (name.size() > 1 && name[0] == '_' && read.components == 1) {
                std::string own;
                for (unsigned char c : name.substr(1)) own += static_cast<char>(std::tolower(c));
                const bool whole = own == "id" || own == "shape" || own == "material";
                all.setColumn(Element::copy, own, whole ? Column(std::vector<std::int32_t>(read.data.begin(), read.data.end())) : Column(read.data));
            }
        constexpr std::uint64_t kMostCorners = 100'000'000;
        const ElementCounts counts = bakedCounts(all);
        if (std::max(counts.points, counts.corners) > kMostCorners) throw Wrong{"its instances would have more than a hundred million corners"};
        parts_.push_back(bakeCopies(all));
    }

    std::vector<Material> materials() const {
        const auto shown = [](double v) { return float(v <= 0.0031308 ? v * 12.92 : 1.055 * std::pow(v, 1 / 2.4) - 0.055); };
        std::vector<Material> out;
        for (std::size_t i = 0; root_.contains("materials") && i < root_["materials"].size(); ++i) {
            const Json& json = item("materials", i);
            const Json rough = json.value("pbrMetallicRoughness", Json::object());
            const auto color = floats<4>(rough, "baseColorFactor", {1, 1, 1, 1});
            out.push_back({json.value("name", fmt::format("material {}", i)), {}, rough.value("roughnessFactor", 1.0f), rough.value("metallicFactor", 1.0f)});
            for (int c = 0; c < 3; ++c) out.back().color[c] = std::clamp(shown(std::clamp(double(color[std::size_t(c)]), 0.0, 1.0)), 0.0f, 1.0f);
        }
        return out;
    }

    std::string_view bufferOf(const Json& view) const {
        const std::size_t b = number(view, "buffer", 0);
        if (b >= buffers_.size()) throw Wrong{fmt::format("buffer {} does not exist", b)};
        return buffers_[b];
    }

    Values accessor(std::size_t i) const {
        const Json& a = item("accessors", i);
        if (a.contains("sparse")) throw Wrong{"sparse accessors are not supported"};
        static const std::map<std::string, int> components{{"SCALAR", 1}, {"VEC2", 2}, {"VEC3", 3}, {"VEC4", 4}};
        static const std::map<std::size_t, std::size_t> sizes{{5120, 1}, {5121, 1}, {5122, 2}, {5123, 2}, {5125, 4}, {5126, 4}};
        const auto shape = components.find(a.value("type", std::string()));
        const std::size_t type = number(a, "componentType", 0);
        if (shape == components.end() || !sizes.count(type)) throw Wrong{fmt::format("accessor {} has an unknown type", i)};
        if (!a.contains("bufferView")) throw Wrong{fmt::format("accessor {} has no data", i)};
        const Json& view = item("bufferViews", number(a, "bufferView", 0));
        const std::string_view data = bufferOf(view);
        Values out{shape->second, number(a, "count", 0), {}};
        const std::size_t size = sizes.at(type), element = size * std::size_t(out.components), stride = number(view, "byteStride", element);
        const std::size_t viewStart = number(view, "byteOffset", 0), offset = number(a, "byteOffset", 0), viewSize = number(view, "byteLength", 0);
        const bool fits = viewStart <= data.size() && viewSize <= data.size() - viewStart && stride >= element && stride <= 4096 && offset <= viewSize &&
                          (out.count == 0 || (out.count - 1 <= (viewSize - offset) / stride && (out.count - 1) * stride + element <= viewSize - offset));
        if (!fits) throw Wrong{fmt::format("accessor {} reaches beyond its buffer", i)};
        const bool normalised = a.value("normalized", false);
        // Many accessors may share one buffer: without a bound a small file could ask for any amount of memory.
        const std::size_t wanted = out.count * std::size_t(out.components);
        if (wanted > budget_) throw Wrong{"its accessors together hold far more than the file"};
        budget_ -= wanted;
        out.data.reserve(out.count * std::size_t(out.components));
        for (std::size_t row = 0; row < out.count; ++row)
            for (int c = 0; c < out.components; ++c)
                out.data.push_back(component(data.data() + viewStart + offset + row * stride + size * std::size_t(c), type, normalised));
        return out;
    }

    template <class T> static float take(const char* at, bool normalised) {
        T v;
        std::memcpy(&v, at, sizeof v);
        return normalised ? static_cast<float>(v) / static_cast<float>(std::numeric_limits<T>::max()) : static_cast<float>(v);
    }
    static float component(const char* at, std::size_t type, bool normalised) {
        switch (type) {
            case 5120: return take<std::int8_t>(at, normalised);
            case 5121: return take<std::uint8_t>(at, normalised);
            case 5122: return take<std::int16_t>(at, normalised);
            case 5123: return take<std::uint16_t>(at, normalised);
            case 5125: return take<std::uint32_t>(at, normalised);
            default: return take<float>(at, false);
        }
    }

    /// Index accessors are read apart: a float holds whole numbers only up to 2²⁴.
    std::vector<Index> indices(std::size_t i, std::size_t vertices) const {
        const Json& a = item("accessors", i);
        std::vector<Index> out;
        if (number(a, "componentType", 0) == 5125) {
            const Values checked = accessor(i);
            const Json& view = item("bufferViews", number(a, "bufferView", 0));
            const char* at = bufferOf(view).data() + number(view, "byteOffset", 0) + number(a, "byteOffset", 0);
            out.resize(checked.count);
            const std::size_t stride = number(view, "byteStride", 4);
            for (std::size_t k = 0; k < out.size(); ++k) std::memcpy(&out[k], at + k * stride, 4);
        } else {
            for (float v : accessor(i).data) out.push_back(v >= 0 ? static_cast<Index>(v) : ~0u);
        }
        for (Index v : out)
            if (v >= vertices) throw Wrong{"a triangle uses a vertex that does not exist"};
        return out;
    }

    void addMesh(std::size_t m, const Affine& place) {
        for (const Json& primitive : item("meshes", m).value("primitives", Json::array())) {
            if (!primitive.is_object()) throw Wrong{"a primitive is no object"};
            if (primitive.contains("extensions") && primitive["extensions"].contains("KHR_draco_mesh_compression"))
                throw Wrong{"compressed meshes are not supported"};
            Geometry part = readPrimitive(primitive);
            parts_.push_back(place == Affine{} ? std::move(part) : transformed(part, place));
            if (parts_.size() > kMostParts) throw Wrong{"it has too many parts"};
        }
    }

    Geometry readPrimitive(const Json& primitive) const {
        const Json attributes = primitive.value("attributes", Json::object());
        if (!attributes.contains("POSITION")) throw Wrong{"a primitive has no positions"};
        const Values positions = accessor(attributes["POSITION"].get<std::size_t>());
        if (positions.components != 3) throw Wrong{"positions need three components"};
        std::vector<Index> order;
        if (primitive.contains("indices")) {
            order = indices(primitive["indices"].get<std::size_t>(), positions.count);
        } else {
            order.resize(positions.count);
            for (Index v = 0; v < order.size(); ++v) order[v] = v;
        }
        MeshBuilder mesh;
        for (std::size_t v = 0; v < positions.count; ++v)
            mesh.positions.push_back({positions.data[v * 3], positions.data[v * 3 + 1], positions.data[v * 3 + 2]});
        addElements(mesh, order, number(primitive, "mode", 4));
        auto made = mesh.finish();
        if (!made) throw Wrong{made.error().text};
        for (const auto& [name, index] : attributes.items())
            if (name != "POSITION") attach(*made, name, accessor(index.get<std::size_t>()), positions.count);
        if (primitive.contains("material") && made->faceCount() > 0)
            made->setColumn(Element::face, "material",
                            Column(
                                std::vector<std::int32_t>(made->faceCount(), std::int32_t(std::min<std::size_t>(number(primitive, "material", 0), 1u << 30)))));
        return *made;
    }

    static void addElements(MeshBuilder& mesh, const std::vector<Index>& order, std::size_t mode) {
        const auto triangle = [&](Index a, Index b, Index c) {
            mesh.cornerPoint.insert(mesh.cornerPoint.end(), {a, b, c});
            mesh.endFace();
        };
        const auto curve = [&](std::size_t from, std::size_t to, bool closed) {
            mesh.curvePoint.insert(mesh.curvePoint.end(), order.begin() + std::ptrdiff_t(from), order.begin() + std::ptrdiff_t(to));
            mesh.curveStart.push_back(static_cast<Index>(mesh.curvePoint.size()));
            mesh.curveClosed.push_back(closed);
        };
        if (mode == 0) return;
        if (mode == 1)
            for (std::size_t i = 0; i + 1 < order.size(); i += 2) curve(i, i + 2, false);
        else if (mode == 2 || mode == 3) curve(0, order.size(), mode == 2);
        else if (mode == 4)
            for (std::size_t i = 0; i + 2 < order.size(); i += 3) triangle(order[i], order[i + 1], order[i + 2]);
        else if (mode == 5)
            for (std::size_t i = 0; i + 2 < order.size(); ++i)
                i % 2 ? triangle(order[i + 1], order[i], order[i + 2]) : triangle(order[i], order[i + 1], order[i + 2]);
        else if (mode == 6)
            for (std::size_t i = 1; i + 1 < order.size(); ++i) triangle(order[0], order[i], order[i + 1]);
        else throw Wrong{fmt::format("primitive mode {} is unknown", mode)};
    }

    /// Vertex values go to corners for normals, uv and colours of faces (vertices are joined later), else to points.
    static void attach(Geometry& geometry, const std::string& name, const Values& values, std::size_t vertices) {
        if (values.count != vertices) throw Wrong{fmt::format("'{}' has another length than the positions", name)};
        std::string own = name == "NORMAL" ? "normal" : name == "TEXCOORD_0" ? "uv" : name == "COLOR_0" ? "color" : "";
        if (own.empty() && name.size() > 1 && name[0] == '_')
            for (unsigned char c : name.substr(1)) own += static_cast<char>(std::tolower(c));
        if (own.empty() || own == "position") return;
        const bool corners = geometry.faceCount() > 0 && name[0] != '_';
        const auto set = [&]<class T>(T) {
            std::vector<T> rows(values.count);
            for (std::size_t v = 0; v < values.count; ++v)
                std::memcpy(static_cast<void*>(&rows[v]), values.data.data() + v * std::size_t(values.components), sizeof(T));
            Column column(std::move(rows));
            geometry.setColumn(corners ? Element::corner : Element::point, own, corners ? gather(column, geometry.topology().cornerPoint()) : column);
        };
        switch (values.components) {
            case 1: return set(float{});
            case 2: return set(Vec2{});
            case 3: return set(Vec3{});
            default: return set(Vec4{});
        }
    }

    std::string_view bytes_, binary_;
    std::filesystem::path folder_;
    const FileSource& files_;
    std::deque<std::string> owned_;  ///< data that is not in `bytes_`; a deque, so that views stay good
    std::vector<std::string_view> buffers_;
    Json root_;
    mutable std::size_t budget_ = 0;
    std::size_t visited_ = 0;
    std::vector<Geometry> parts_;
};

}  // namespace

Result<Geometry> gltfFromBytes(std::string_view bytes, const std::filesystem::path& folder, const FileSource& files) {
    return GltfReader(bytes, folder, files).run();
}

}  // namespace seedloom
