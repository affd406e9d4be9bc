#include "meshes/MeshBuilder.h"
#include "meshes/MeshFile.h"
#include "meshes/Ply.h"

#include <bit>
#include <charconv>
#include <cstring>
#include <map>

namespace seedloom {

namespace {

struct Ended {};

/// Numbers one after the other from the body, in either coding.
class NumberStream {
public:
    NumberStream(std::string_view body, PlyCoding coding) : at_(body.data()), end_(at_ + body.size()), coding_(coding) {}

    double next(PlyType type) {
        if (coding_ == PlyCoding::text) return nextWord();
        switch (type) {
            case PlyType::int8: return take<std::int8_t>();
            case PlyType::uint8: return take<std::uint8_t>();
            case PlyType::int16: return take<std::int16_t>();
            case PlyType::uint16: return take<std::uint16_t>();
            case PlyType::int32: return take<std::int32_t>();
            case PlyType::uint32: return take<std::uint32_t>();
            case PlyType::float32: return double(take<float>());
            case PlyType::float64: return take<double>();
        }
        return 0;
    }

private:
    template <class T> T take() {
        if (static_cast<std::size_t>(end_ - at_) < sizeof(T)) throw Ended{};
        char bytes[sizeof(T)];
        std::memcpy(bytes, at_, sizeof(T));
        at_ += sizeof(T);
        if (coding_ == PlyCoding::bigEndian) std::reverse(bytes, bytes + sizeof(T));
        T value;
        std::memcpy(&value, bytes, sizeof(T));
        return value;
    }
    double nextWord() {
        while (at_ < end_ && (*at_ == ' ' || *at_ == '\n' || *at_ == '\r' || *at_ == '\t')) ++at_;
        if (at_ < end_ && *at_ == '+') ++at_;
        double value = 0;
        const auto [next, error] = std::from_chars(at_, end_, value);
        if (error != std::errc() && error != std::errc::result_out_of_range) throw Ended{};
        at_ = next;
        return value;
    }
    const char *at_, *end_;
    PlyCoding coding_;
};

/// Names of the components of vectors, as writers of this format spell them.
struct VectorName {
    const char* name;
    std::vector<std::string> parts;
    float scale;
};
const std::vector<VectorName>& vectorNames() {
    static const std::vector<VectorName> names{{"normal", {"nx", "ny", "nz"}, 1}, {"color", {"red", "green", "blue"}, 1 / 255.0f}};
    return names;
}

using Columns = std::map<std::string, std::vector<float>>;

/// Turns name_x, name_y, name_z (and the special spellings) into vectors, the rest into numbers.
void attach(Geometry& geometry, Element element, Columns columns, const PlyElement& declared) {
    const auto typeOf = [&](const std::string& name) {
        for (const PlyProperty& p : declared.properties)
            if (p.name == name) return p.type;
        return PlyType::float32;
    };
    const auto joinVec3 = [&](const std::string& name, const std::vector<std::string>& parts, float scale) {
        const auto x = columns.find(parts[0]), y = columns.find(parts[1]), z = columns.find(parts[2]);
        if (x == columns.end() || y == columns.end() || z == columns.end()) return;
        std::vector<Vec3> values(x->second.size());
        for (std::size_t i = 0; i < values.size(); ++i) values[i] = Vec3{x->second[i], y->second[i], z->second[i]} * scale;
        for (const std::string& part : parts) columns.erase(part);
        geometry.setColumn(element, name, Column(std::move(values)));
    };
    for (const VectorName& v : vectorNames()) joinVec3(v.name, v.parts, typeOf(v.parts[0]) == PlyType::uint8 ? v.scale : 1);
    std::vector<std::string> stems;
    for (const auto& [name, values] : columns)
        if (name.size() > 2 && name.ends_with("_z")) stems.push_back(name.substr(0, name.size() - 2));
    for (const std::string& stem : stems) joinVec3(stem, {stem + "_x", stem + "_y", stem + "_z"}, 1);
    for (auto& [name, values] : columns) {
        if (typeOf(name) == PlyType::float32 || typeOf(name) == PlyType::float64) {
            geometry.setColumn(element, name, Column(std::move(values)));
        } else {
            std::vector<std::int32_t> whole(values.size());
            for (std::size_t i = 0; i < whole.size(); ++i) whole[i] = static_cast<std::int32_t>(std::clamp(values[i], -2147483520.0f, 2147483520.0f));
            geometry.setColumn(element, name, Column(std::move(whole)));
        }
    }
}

class PlyReader {
public:
    PlyReader(const PlyHeader& header, std::string_view bytes) : header_(header), stream_(bytes.substr(header.bodyStart), header.coding) {}

    Result<Geometry> run() {
        const PlyElement *vertex = nullptr, *face = nullptr;
        try {
            for (const PlyElement& element : header_.elements) {
                if (element.name == "vertex") vertex = &element;
                if (element.name == "face") face = &element;
                readElement(element);
            }
        } catch (const Ended&) {
            return Error{"mesh.format", "The file ends in the middle of its elements, or holds something that is no number."};
        }
        for (double index : indices_)
            if (!(index >= 0 && index < double(mesh_.positions.size())))
                return Error{"mesh.format", fmt::format("A face uses point {}, which does not exist.", index)};
        for (double index : indices_) mesh_.cornerPoint.push_back(static_cast<Index>(index));
        mesh_.hasUv = !mesh_.cornerUv.empty() && mesh_.cornerUv.size() == mesh_.cornerPoint.size();
        auto made = mesh_.finish();
        if (!made) return made;
        if (vertex) attach(*made, Element::point, std::move(pointColumns_), *vertex);
        if (face) attach(*made, Element::face, std::move(faceColumns_), *face);
        return made;
    }

private:
    void readElement(const PlyElement& element) {
        for (std::uint64_t row = 0; row < element.count; ++row) {
            Vec3 position{};
            for (const PlyProperty& property : element.properties) {
                if (property.list) {
                    readList(element, property);
                    continue;
                }
                const double value = stream_.next(property.type);
                if (element.name == "vertex") {
                    if (property.name == "x" || property.name == "y" || property.name == "z") position[property.name[0] - 'x'] = static_cast<float>(value);
                    else pointColumns_[property.name].push_back(static_cast<float>(value));
                } else if (element.name == "face") {
                    faceColumns_[property.name].push_back(static_cast<float>(value));
                } else if (element.name == "edge") {
                    if (property.name == "vertex1") edge_[0] = value;
                    if (property.name == "vertex2") edge_[1] = value;
                }
            }
            if (element.name == "vertex") mesh_.positions.push_back(position);
            if (element.name == "edge") addEdge();
            if (element.name == "face") mesh_.faceStart.push_back(static_cast<Index>(indices_.size()));
        }
    }
    void readList(const PlyElement& element, const PlyProperty& property) {
        const double count = stream_.next(property.countType);
        if (!(count >= 0) || count > 1e9) throw Ended{};
        const bool corners = element.name == "face" && (property.name == "vertex_indices" || property.name == "vertex_index");
        const bool uv = element.name == "face" && property.name == "texcoord";
        Vec2 pair{};
        for (std::uint64_t i = 0; i < static_cast<std::uint64_t>(count); ++i) {
            const double value = stream_.next(property.type);
            if (corners) indices_.push_back(value);
            if (uv && i % 2 == 0) pair.x = static_cast<float>(value);
            if (uv && i % 2 == 1) pair.y = static_cast<float>(value), mesh_.cornerUv.push_back(pair);
        }
    }
    void addEdge() {
        for (double end : edge_) {
            if (!(end >= 0 && end < 4e9)) throw Ended{};
            mesh_.curvePoint.push_back(static_cast<Index>(end));
        }
        mesh_.curveStart.push_back(static_cast<Index>(mesh_.curvePoint.size()));
        mesh_.curveClosed.push_back(0);
    }

    const PlyHeader& header_;
    NumberStream stream_;
    MeshBuilder mesh_;
    std::vector<double> indices_;
    std::array<double, 2> edge_{};
    Columns pointColumns_, faceColumns_;
};

}  // namespace

Result<Geometry> plyFromBytes(std::string_view bytes) {
    const auto header = plyHeaderFromBytes(bytes);
    if (!header) return header.error();
    return PlyReader(*header, bytes).run();
}

}  // namespace seedloom
