#pragma once
// A geometry as arrays for drawing and picking; made off the interface thread.
#include "app/session/Selection.h"
#include "app/stage/StageColours.h"
#include "geometry/Measures.h"

#include <memory>

namespace seedloom::app {

enum class Shading : unsigned char { clay, attribute, checker, sides, difference };

/// What of a geometry is made ready for drawing.
struct StageLook {
    Shading shading = Shading::clay;
    std::string attribute;   ///< colours faces by it where shading is attribute
    ColourChoice colours;    ///< how values become colours
    std::string arrows;      ///< a vector attribute drawn as arrows; empty: none
    double arrowLength = 1;  ///< times the vector; unit vectors are about a twentieth of the model at 1
    bool points = false, normals = false, openEdges = false;
    bool operator==(const StageLook&) const = default;
};

struct StageMesh;

/// Copies of one shape: it is drawn and searched once for each, where each stands. A million of them must stay small, so their places are looked up in the
/// geometry.
struct StageCopies {
    std::shared_ptr<const StageMesh> shape;
    std::vector<Index> rows;                           ///< the copies; shuffled, so that the first of them are spread over all
    std::vector<std::array<std::uint8_t, 4>> colours;  ///< of each: red, green, blue, and how far it replaces the shape's own; empty: not at all
    bool mirrored = false;                             ///< faces run the other way round on screen
};

struct StageMesh {
    struct Vertex {
        Vec3 position, normal, colour;
        Vec2 uv;
    };
    std::vector<Vertex> vertices;                    ///< one a corner
    std::vector<Index> triangles, wire;              ///< into vertices
    std::vector<Index> triangleFace;                 ///< face of each triangle
    std::vector<Index> reduced;                      ///< fewer triangles for while the view moves; empty where it need not
    std::vector<Vertex> lines;                       ///< pairs: the curves
    std::vector<Vertex> dots;                        ///< points of curves, and loose points; all points where the look wants them
    std::vector<Vertex> arrows, normals, openEdges;  ///< pairs
    Bounds bounds;
    std::size_t faceCount = 0, pointCount = 0, copyCount = 0, openEdgeCount = 0;
    std::uint64_t drawnFaces = 0;            ///< with copies
    bool closed = false, allClosed = false;  ///< the faces themselves; with those of copies
    bool dotsCut = false;                    ///< there are more points than are drawn
    std::vector<StageCopies> copies;         ///< of what is drawn as copies
    Geometry geometry;                       ///< what is drawn: rows that are picked or marked are its rows
    Shading shading = Shading::clay;
    Legend legend;                     ///< what the colours mean
    std::optional<Column> values;      ///< what the colours show: for each corner, or for each point where there are no faces
    std::optional<Column> copyValues;  ///< the same for each copy
};

/// Above this many triangles a reduced list is made.
inline constexpr std::size_t kReduceAbove = 120000;

/// `before` is what the shading `difference` compares with.
std::shared_ptr<const StageMesh> stageMesh(const Geometry& geometry, const StageLook& look, const Geometry* before = nullptr);

/// Triangles with all copies; lines and dots of copies count as much.
std::size_t triangleCount(const StageMesh& mesh);

/// The value that is shown at a picked place, and the element that holds it, for people; empty where the colours mean nothing there.
std::string valueAt(const StageMesh& mesh, Element picked, Index row, Vec3 at);

/// Names of attributes that can colour the stage.
std::vector<std::string> colourableAttributes(const Geometry& geometry);
/// Names of attributes with three components, for arrows.
std::vector<std::string> vectorAttributes(const Geometry& geometry);

/// Marked elements as lines (pairs), dots and triangles over `geometry`; rows that do not exist are left out.
struct MarkShapes {
    std::vector<StageMesh::Vertex> lines, dots, triangles;
    Bounds bounds;
};
MarkShapes markShapes(const Geometry& geometry, const StageMarks& marks);

}  // namespace seedloom::app
