#include "meshes/MeshFile.h"

#include <fmt/format.h>

#include <array>
#include <cstring>

namespace seedloom {

namespace {

constexpr std::array<const char*, 4> kParts{"_x", "_y", "_z", "_w"};

/// What a property is called: the format's own words for normals and colours, else name or name_x ….
std::string propertyName(const std::string& name, ColumnType type, int c) {
    if (name == "normal" && type == ColumnType::vec3) return fmt::format("n{}", "xyz"[c]);
    if (name == "color" && type == ColumnType::vec3) return std::array{"red", "green", "blue"}[std::size_t(c)];
    return componentCount(type) == 1 ? name : name + kParts[std::size_t(c)];
}

/// Names are one word in this format.
bool writable(const std::string& name, const Column& column) {
    return column.type() != ColumnType::text && !name.empty() && name.find_first_of(" \t\r\n") == std::string::npos && name != "x" && name != "y" &&
           name != "z";
}

const char* typeWord(ColumnType type) { return type == ColumnType::integer ? "int" : type == ColumnType::boolean ? "uchar" : "float"; }

void declare(std::string& header, const Geometry& geometry, Element element) {
    for (const auto& [name, column] : geometry.table(element)) {
        if (!writable(name, column) || (element == Element::point && name == "position")) continue;
        for (int c = 0; c < componentCount(column.type()); ++c)
            header += fmt::format("property {} {}\n", typeWord(column.type()), propertyName(name, column.type(), c));
    }
}

template <class T> void put(std::string& to, T value) { to.append(reinterpret_cast<const char*>(&value), sizeof value); }

void putRow(std::string& to, const Geometry& geometry, Element element, std::size_t row) {
    for (const auto& [name, column] : geometry.table(element)) {
        if (!writable(name, column) || (element == Element::point && name == "position")) continue;
        for (int c = 0; c < componentCount(column.type()); ++c) {
            const double v = column.component(row, c);
            if (column.type() == ColumnType::integer) put(to, static_cast<std::int32_t>(v));
            else if (column.type() == ColumnType::boolean) put(to, static_cast<std::uint8_t>(v));
            else put(to, static_cast<float>(v));
        }
    }
}

}  // namespace

std::string plyToBytes(const Geometry& geometry) {
    const Topology& t = geometry.topology();
    const auto* uv = geometry.values<Vec2>(Element::corner, "uv");
    std::size_t edges = 0;
    for (std::size_t c = 0; c < t.curveCount(); ++c)
        if (const std::size_t n = t.curve(c).size(); n > 1) edges += n - 1 + (t.curveClosed(c) && n > 2);
    std::string out = fmt::format("ply\nformat binary_little_endian 1.0\ncomment Seed Loom, metres, +Y up\nelement vertex {}\n", geometry.pointCount());
    out += "property float x\nproperty float y\nproperty float z\n";
    declare(out, geometry, Element::point);
    if (geometry.faceCount() > 0) {
        out += fmt::format("element face {}\nproperty list uint uint vertex_indices\n", geometry.faceCount());
        if (uv) out += "property list uint float texcoord\n";
        declare(out, geometry, Element::face);
    }
    if (edges > 0) out += fmt::format("element edge {}\nproperty int vertex1\nproperty int vertex2\n", edges);
    out += "end_header\n";
    for (std::size_t p = 0; p < geometry.pointCount(); ++p) {
        put(out, geometry.positions()[p]);
        putRow(out, geometry, Element::point, p);
    }
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) {
        const auto face = t.face(f);
        put(out, static_cast<std::uint32_t>(face.size()));
        for (Index p : face) put(out, p);
        if (uv) {
            put(out, static_cast<std::uint32_t>(face.size() * 2));
            for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) put(out, (*uv)[c]);
        }
        putRow(out, geometry, Element::face, f);
    }
    for (std::size_t c = 0; c < t.curveCount(); ++c) {
        const auto curve = t.curve(c);
        const auto edge = [&](Index a, Index b) { put(out, static_cast<std::int32_t>(a)), put(out, static_cast<std::int32_t>(b)); };
        for (std::size_t i = 1; i < curve.size(); ++i) edge(curve[i - 1], curve[i]);
        if (t.curveClosed(c) && curve.size() > 2) edge(curve.back(), curve.front());
    }
    return out;
}

}  // namespace seedloom
