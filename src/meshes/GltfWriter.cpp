// glTF 2.0 (Khronos glTF 2.0 specification; chapter 4, "GLB File Format", for the binary form). As text, the data is in the JSON, so that it stays one file.
#include "fields/Source.h"
#include "meshes/Base64.h"
#include "meshes/MeshFile.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/Triangulate.h"

#include <cstring>

namespace seedloom {

namespace {

constexpr double kCrispAngle = 30;  // Where a geometry brings no normals, edges that turn by more look crisp.

/// An attribute as floats per vertex.
struct VertexColumn {
    std::string name;
    int components;
    std::vector<float> values;
};

class GltfWriter {
public:
    explicit GltfWriter(const Geometry& in) : in_(in) {}

    std::string binary() {
        addAll();
        return pack();
    }
    std::string text() {
        addAll();
        Json root = described();
        if (!binary_.empty()) root["buffers"][0]["uri"] = "data:application/octet-stream;base64," + base64Encoded(binary_);
        return root.dump(1) + "\n";
    }

private:
    struct Source {
        std::string name;
        Element element;
        const Column* column;
    };

    void addAll() {
        if (in_.faceCount() > 0) addFaces();
        for (std::size_t c = 0; c < in_.curveCount(); ++c) addCurve(c);
        if (in_.faceCount() == 0 && in_.curveCount() == 0 && in_.pointCount() > 0) addPoints();
    }

    static std::string gltfName(const std::string& name, const Column& column) {
        if (name == "normal" && column.type() == ColumnType::vec3) return "NORMAL";
        if (name == "uv" && column.type() == ColumnType::vec2) return "TEXCOORD_0";
        if (name == "color" && (column.type() == ColumnType::vec3 || column.type() == ColumnType::vec4)) return "COLOR_0";
        std::string upper = "_";
        for (unsigned char c : name) upper += std::isalnum(c) ? static_cast<char>(std::toupper(c)) : '_';
        return upper;
    }

    /// Attributes that vertices carry; corners win over points, points over faces, where names meet.
    std::vector<Source> sources() {
        std::vector<Source> out;
        const auto add = [&](Element element, const std::string& name, const Column& column) {
            if (column.type() == ColumnType::text || (element == Element::point && name == "position")) return;
            const std::string called = gltfName(name, column);
            for (const Source& s : out)
                if (s.name == called) return;
            out.push_back({called, element, &column});
        };
        for (Element element : {Element::corner, Element::point, Element::face})
            for (const auto& [name, column] : in_.table(element)) add(element, name, column);
        if (!in_.column(Element::point, "normal") && !in_.column(Element::corner, "normal")) {
            ownNormals_.emplace_back(cornerNormals(in_, kCrispAngle));
            std::erase_if(out, [](const Source& s) { return s.name == "NORMAL"; });
            out.push_back({"NORMAL", Element::corner, &ownNormals_.back()});
        }
        return out;
    }

    void addFaces() {
        const auto from = sources();
        const Topology& t = in_.topology();
        int width = 0;
        for (const Source& s : from) width += componentCount(s.column->type());
        // Corners of one point that agree in everything share a vertex.
        std::vector<float> row(static_cast<std::size_t>(width)), rows;
        std::vector<Index> vertexOf(in_.cornerCount()), vertexPoint, nextOfPoint, firstOfPoint(in_.pointCount(), ~0u);
        for (Index c = 0; c < in_.cornerCount(); ++c) {
            const Index p = t.cornerPoint()[c];
            std::size_t at = 0;
            for (const Source& s : from) {
                const Index r = s.element == Element::corner ? c : s.element == Element::point ? p : t.faceOfCorner()[c];
                for (int k = 0; k < componentCount(s.column->type()); ++k) row[at++] = static_cast<float>(s.column->component(r, k));
            }
            Index v = firstOfPoint[p];
            while (v != ~0u && std::memcmp(rows.data() + std::size_t(v) * row.size(), row.data(), row.size() * sizeof(float)) != 0) v = nextOfPoint[v];
            if (v == ~0u) {
                v = static_cast<Index>(vertexPoint.size());
                vertexPoint.push_back(p);
                nextOfPoint.push_back(firstOfPoint[p]);
                firstOfPoint[p] = v;
                rows.insert(rows.end(), row.begin(), row.end());
            }
            vertexOf[c] = v;
        }
        std::vector<VertexColumn> columns{positionColumn(vertexPoint)};
        int offset = 0;
        for (const Source& s : from) {
            VertexColumn column{s.name, componentCount(s.column->type()), {}};
            for (std::size_t v = 0; v < vertexPoint.size(); ++v)
                for (int k = 0; k < column.components; ++k) column.values.push_back(rows[v * row.size() + std::size_t(offset + k)]);
            offset += column.components;
            if (s.name == "NORMAL") makeUnit(column.values);
            columns.push_back(std::move(column));
        }
        std::vector<Index> indices;
        const Triangles triangles = triangulate(in_);
        for (Index c : triangles.corners) indices.push_back(vertexOf[c]);
        addPrimitive(4, columns, indices);
    }

    static void makeUnit(std::vector<float>& values) {
        for (std::size_t i = 0; i + 2 < values.size(); i += 3) {
            const Vec3 n = normalized({values[i], values[i + 1], values[i + 2]});
            values[i] = n.x, values[i + 1] = n.y, values[i + 2] = n.z;
        }
    }

    VertexColumn positionColumn(const std::vector<Index>& points) const {
        VertexColumn out{"POSITION", 3, {}};
        for (Index p : points) {
            const Vec3 v = in_.positions()[p];
            out.values.insert(out.values.end(), {v.x, v.y, v.z});
        }
        return out;
    }

    std::vector<VertexColumn> pointColumns(const std::vector<Index>& points) const {
        std::vector<VertexColumn> out{positionColumn(points)};
        for (const auto& [name, column] : in_.table(Element::point)) {
            if (name == "position" || column.type() == ColumnType::text) continue;
            VertexColumn made{gltfName(name, column), componentCount(column.type()), {}};
            for (Index p : points)
                for (int k = 0; k < made.components; ++k) made.values.push_back(static_cast<float>(column.component(p, k)));
            if (made.name == "NORMAL") makeUnit(made.values);
            out.push_back(std::move(made));
        }
        return out;
    }

    void addCurve(std::size_t c) {
        const auto curve = in_.topology().curve(c);
        if (curve.size() < 2) return;
        addPrimitive(in_.topology().curveClosed(c) ? 2 : 3, pointColumns({curve.begin(), curve.end()}), {});
    }

    void addPoints() {
        std::vector<Index> all(in_.pointCount());
        for (Index p = 0; p < all.size(); ++p) all[p] = p;
        addPrimitive(0, pointColumns(all), {});
    }

    std::size_t addView(const void* bytes, std::size_t size, int target) {
        views_.push_back({{"buffer", 0}, {"byteOffset", binary_.size()}, {"byteLength", size}, {"target", target}});
        binary_.append(static_cast<const char*>(bytes), size);
        while (binary_.size() % 4) binary_ += '\0';
        return views_.size() - 1;
    }

    void addPrimitive(int mode, const std::vector<VertexColumn>& columns, const std::vector<Index>& indices) {
        constexpr int kFloat = 5126, kUnsigned = 5125, kVertices = 34962, kIndices = 34963;
        constexpr const char* types[] = {"", "SCALAR", "VEC2", "VEC3", "VEC4"};
        Json attributes = Json::object();
        for (const VertexColumn& column : columns) {
            std::vector<float> finite = column.values;
            for (float& v : finite)
                if (!std::isfinite(v)) v = 0;  // The format forbids NaN and infinity.
            Json accessor{{"bufferView", addView(finite.data(), finite.size() * sizeof(float), kVertices)}, {"componentType", kFloat},
                          {"count", finite.size() / std::size_t(column.components)}, {"type", types[column.components]}};
            if (column.name == "POSITION") {
                std::array<float, 3> low{1e38f, 1e38f, 1e38f}, high{-1e38f, -1e38f, -1e38f};
                for (std::size_t i = 0; i < finite.size(); ++i) low[i % 3] = std::min(low[i % 3], finite[i]), high[i % 3] = std::max(high[i % 3], finite[i]);
                accessor["min"] = low;
                accessor["max"] = high;
            }
            attributes[column.name] = accessors_.size();
            accessors_.push_back(std::move(accessor));
        }
        Json primitive{{"attributes", std::move(attributes)}, {"mode", mode}};
        if (!indices.empty()) {
            primitive["indices"] = accessors_.size();
            accessors_.push_back({{"bufferView", addView(indices.data(), indices.size() * sizeof(Index), kIndices)}, {"componentType", kUnsigned},
                                  {"count", indices.size()}, {"type", "SCALAR"}});
        }
        primitives_.push_back(std::move(primitive));
    }

    Json described() const {
        Json root{{"asset", {{"version", "2.0"}, {"generator", "Seed Loom"}}}, {"scene", 0}};
        if (primitives_.empty()) {
            root["scenes"] = Json::array({Json::object()});
        } else {
            root["scenes"] = Json::array({{{"nodes", {0}}}});
            root["nodes"] = Json::array({{{"mesh", 0}}});
            root["meshes"] = Json::array({{{"primitives", primitives_}}});
            root["buffers"] = Json::array({{{"byteLength", binary_.size()}}});
            root["bufferViews"] = views_;
            root["accessors"] = accessors_;
        }
        return root;
    }

    std::string pack() const {
        std::string json = described().dump();
        while (json.size() % 4) json += ' ';
        std::string out;
        const auto put = [&](std::uint32_t v) { out.append(reinterpret_cast<const char*>(&v), 4); };
        const std::size_t total = 12 + 8 + json.size() + (binary_.empty() ? 0 : 8 + binary_.size());
        put(0x46546C67), put(2), put(static_cast<std::uint32_t>(total));
        put(static_cast<std::uint32_t>(json.size())), put(0x4E4F534A);
        out += json;
        if (!binary_.empty()) {
            put(static_cast<std::uint32_t>(binary_.size())), put(0x004E4942);
            out += binary_;
        }
        return out;
    }

    const Geometry& in_;
    std::vector<Column> ownNormals_;
    std::string binary_;
    Json views_ = Json::array(), accessors_ = Json::array(), primitives_ = Json::array();
};

}  // namespace

std::string glbToBytes(const Geometry& geometry) { return GltfWriter(geometry).binary(); }

std::string gltfToText(const Geometry& geometry) { return GltfWriter(geometry).text(); }

}  // namespace seedloom
