#pragma once
// A geometry as arrays for drawing; made off the interface thread.
#include "geometry/Measures.h"

#include <memory>

namespace seedloom::app {

struct StageLook {
    std::string attribute;  ///< colours faces by it; empty: clay
    bool operator==(const StageLook&) const = default;
};

struct StageMesh {
    struct Vertex {
        Vec3 position, normal, colour;
    };
    std::vector<Vertex> vertices;          ///< one a corner
    std::vector<Index> triangles, wire;    ///< into vertices
    std::vector<Vertex> lines;             ///< pairs: the curves
    std::vector<Vertex> dots;              ///< points of curves, and loose points
    Bounds bounds;
    std::size_t faceCount = 0, pointCount = 0;
    bool closed = false;
    // Where coloured by an attribute:
    std::string attribute, attributeProblem;
    Element attributeElement = Element::point;
    double low = 0, high = 0;
};

/// Colour of a value from 0 (indigo) over sand to 1 (madder), even in lightness steps.
Vec3 valueColour(float t);

std::shared_ptr<const StageMesh> stageMesh(const Geometry& geometry, const StageLook& look);

/// Names of attributes that can colour the stage.
std::vector<std::string> colourableAttributes(const Geometry& geometry);

}  // namespace seedloom::app
