#include "meshes/GltfMeshes.h"

#include "geometry/Measures.h"
#include "geometry/Triangulate.h"

#include <cstring>

namespace seedloom {

namespace {

constexpr double kCrispAngle = 30;  // Where a geometry brings no normals, edges that turn by more look crisp.
constexpr int kFloat = 5126, kUnsigned = 5125, kVertices = 34962, kIndices = 34963;
constexpr const char* kTypes[] = {"", "SCALAR", "VEC2", "VEC3", "VEC4"};

void makeUnit(std::vector<float>& values) {
    for (std::size_t i = 0; i + 2 < values.size(); i += 3) {
        const Vec3 n = normalized({values[i], values[i + 1], values[i + 2]});
        values[i] = n.x, values[i + 1] = n.y, values[i + 2] = n.z;
    }
}

}  // namespace

Json GltfData::primitivesOf(const Geometry& geometry) {
    in_ = &geometry;
    primitives_ = Json::array();
    ownNormals_.clear();
    if (in_->faceCount() > 0) addFaces();
    for (std::size_t c = 0; c < in_->curveCount(); ++c) addCurve(c);
    if (in_->faceCount() == 0 && in_->curveCount() == 0 && in_->pointCount() > 0) addPoints();
    return std::move(primitives_);
}

std::string GltfData::nameFor(const std::string& name, const Column& column) {
    if (name == "normal" && column.type() == ColumnType::vec3) return "NORMAL";
    if (name == "uv" && column.type() == ColumnType::vec2) return "TEXCOORD_0";
    if (name == "color" && (column.type() == ColumnType::vec3 || column.type() == ColumnType::vec4)) return "COLOR_0";
    std::string upper = "_";
    for (unsigned char c : name) upper += std::isalnum(c) ? static_cast<char>(std::toupper(c)) : '_';
    return upper;
}

/// Attributes that vertices carry; corners win over points, points over faces, where names meet.
std::vector<GltfData::Source> GltfData::sources() {
    std::vector<Source> out;
    const auto add = [&](Element element, const std::string& name, const Column& column) {
        if (column.type() == ColumnType::text || (element == Element::point && name == "position") ||
            (element == Element::face && name == "material" && column.type() == ColumnType::integer))
            return;
        const std::string called = nameFor(name, column);
        for (const Source& s : out)
            if (s.name == called) return;
        out.push_back({called, element, &column});
    };
    for (Element element : {Element::corner, Element::point, Element::face})
        for (const auto& [name, column] : in_->table(element)) add(element, name, column);
    if (!in_->column(Element::point, "normal") && !in_->column(Element::corner, "normal")) {
        ownNormals_.emplace_back(cornerNormals(*in_, kCrispAngle));
        std::erase_if(out, [](const Source& s) { return s.name == "NORMAL"; });
        out.push_back({"NORMAL", Element::corner, &ownNormals_.back()});
    }
    return out;
}

void GltfData::addFaces() {
    const auto from = sources();
    const Topology& t = in_->topology();
    int width = 0;
    for (const Source& s : from) width += componentCount(s.column->type());
    // Corners of one point that agree in everything share a vertex.
    std::vector<float> row(static_cast<std::size_t>(width)), rows;
    std::vector<Index> vertexOf(in_->cornerCount()), vertexPoint, nextOfPoint, firstOfPoint(in_->pointCount(), ~0u);
    for (Index c = 0; c < in_->cornerCount(); ++c) {
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
    const Json attributes = addAttributes(columns);
    const Triangles triangles = triangulate(*in_);
    const auto* materials = in_->values<std::int32_t>(Element::face, "material");
    // A primitive for each material, with the same vertices.
    std::map<std::int32_t, std::vector<Index>> byMaterial;
    for (std::size_t i = 0; i < triangles.corners.size(); ++i)
        byMaterial[materials ? (*materials)[triangles.faceOf[i / 3]] : 0].push_back(vertexOf[triangles.corners[i]]);
    for (const auto& [material, indices] : byMaterial) addIndices(attributes, indices, materials ? std::optional(material) : std::nullopt);
}

void GltfData::addIndices(const Json& attributes, const std::vector<Index>& indices, std::optional<std::int32_t> material) {
    Json primitive{{"attributes", attributes}, {"mode", 4}, {"indices", accessors_.size()}};
    if (material) primitive["material"] = *material;
    accessors_.push_back({{"bufferView", addView(indices.data(), indices.size() * sizeof(Index), kIndices)},
                          {"componentType", kUnsigned},
                          {"count", indices.size()},
                          {"type", "SCALAR"}});
    primitives_.push_back(std::move(primitive));
}

VertexColumn GltfData::positionColumn(const std::vector<Index>& points) const {
    VertexColumn out{"POSITION", 3, {}};
    for (Index p : points) {
        const Vec3 v = in_->positions()[p];
        out.values.insert(out.values.end(), {v.x, v.y, v.z});
    }
    return out;
}

std::vector<VertexColumn> GltfData::pointColumns(const std::vector<Index>& points) const {
    std::vector<VertexColumn> out{positionColumn(points)};
    for (const auto& [name, column] : in_->table(Element::point)) {
        if (name == "position" || column.type() == ColumnType::text) continue;
        VertexColumn made{nameFor(name, column), componentCount(column.type()), {}};
        for (Index p : points)
            for (int k = 0; k < made.components; ++k) made.values.push_back(static_cast<float>(column.component(p, k)));
        if (made.name == "NORMAL") makeUnit(made.values);
        out.push_back(std::move(made));
    }
    return out;
}

void GltfData::addCurve(std::size_t c) {
    const auto curve = in_->topology().curve(c);
    if (curve.size() >= 2)
        primitives_.push_back({{"attributes", addAttributes(pointColumns({curve.begin(), curve.end()}))}, {"mode", in_->topology().curveClosed(c) ? 2 : 3}});
}

void GltfData::addPoints() {
    std::vector<Index> all(in_->pointCount());
    for (Index p = 0; p < all.size(); ++p) all[p] = p;
    primitives_.push_back({{"attributes", addAttributes(pointColumns(all))}, {"mode", 0}});
}

std::size_t GltfData::addView(const void* bytes, std::size_t size, int target) {
    Json view{{"buffer", 0}, {"byteOffset", binary_.size()}, {"byteLength", size}};
    if (target) view["target"] = target;
    views_.push_back(std::move(view));
    binary_.append(static_cast<const char*>(bytes), size);
    while (binary_.size() % 4) binary_ += '\0';
    return views_.size() - 1;
}

std::size_t GltfData::addFloats(const VertexColumn& column, bool vertices) {
    std::vector<float> finite = column.values;
    for (float& v : finite)
        if (!std::isfinite(v)) v = 0;  // The format forbids NaN and infinity.
    Json accessor{{"bufferView", addView(finite.data(), finite.size() * sizeof(float), vertices ? kVertices : 0)},
                  {"componentType", kFloat},
                  {"count", finite.size() / std::size_t(column.components)},
                  {"type", kTypes[column.components]}};
    // The specification asks for the bounds of positions, and of the times of keys.
    if (column.name == "POSITION" || column.name == kKeyTimes) {
        const std::size_t components = std::size_t(column.components);
        std::vector<float> low(components, 1e38f), high(components, -1e38f);
        for (std::size_t i = 0; i < finite.size(); ++i)
            low[i % components] = std::min(low[i % components], finite[i]), high[i % components] = std::max(high[i % components], finite[i]);
        accessor["min"] = low;
        accessor["max"] = high;
    }
    accessors_.push_back(std::move(accessor));
    return accessors_.size() - 1;
}

Json GltfData::addAttributes(const std::vector<VertexColumn>& columns) {
    Json attributes = Json::object();
    for (const VertexColumn& column : columns) attributes[column.name] = addFloats(column, true);
    return attributes;
}

}  // namespace seedloom
