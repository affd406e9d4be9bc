#pragma once
// What glTF files hold as binary data: vertices and indices of meshes, and values of instances.
#include "fields/Source.h"
#include "geometry/Geometry.h"

namespace seedloom {

/// An attribute as floats per vertex.
struct VertexColumn {
    std::string name;
    int components;
    std::vector<float> values;
};

/// What a column of key times is called.
inline constexpr const char* kKeyTimes = "time";

class GltfData {
public:
    /// Adds what `geometry` has of its own, without copies, and gives its primitives; `material` holds the number from the attribute where its faces have one.
    Json primitivesOf(const Geometry& geometry);
    /// The number of an accessor over floats.
    std::size_t addFloats(const VertexColumn& column, bool vertices);

    const std::string& binary() const { return binary_; }
    const Json& views() const { return views_; }
    const Json& accessors() const { return accessors_; }
    /// As glTF calls an attribute: its own words for what it knows, else in capitals behind a _.
    static std::string nameFor(const std::string& name, const Column& column);

private:
    struct Source {
        std::string name;
        Element element;
        const Column* column;
    };
    std::vector<Source> sources();
    void addFaces();
    void addCurve(std::size_t curve);
    void addPoints();
    void addIndices(const Json& attributes, const std::vector<Index>& indices, std::optional<std::int32_t> material);
    VertexColumn positionColumn(const std::vector<Index>& points) const;
    std::vector<VertexColumn> pointColumns(const std::vector<Index>& points) const;
    std::size_t addView(const void* bytes, std::size_t size, int target);
    Json addAttributes(const std::vector<VertexColumn>& columns);

    const Geometry* in_ = nullptr;
    std::vector<Column> ownNormals_;
    std::string binary_;
    Json views_ = Json::array(), accessors_ = Json::array(), primitives_ = Json::array();
};

}  // namespace seedloom
