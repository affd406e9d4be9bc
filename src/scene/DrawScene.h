#pragma once
// A geometry as arrays for drawing and picking, made once and off the interface thread: for the stage, small pictures and traced ones.
#include "geometry/Measures.h"
#include "scene/ValueColours.h"

#include <memory>

namespace seedloom {

enum class Shading : unsigned char {
    clay,        ///< one colour for all: the plain shape
    attribute,   ///< the values of one attribute
    checker,     ///< squares that follow the uv
    sides,       ///< fronts and backs
    difference,  ///< what has changed since another
    look,        ///< its own colours and materials
};

/// What of a geometry is made ready for drawing.
struct SceneLook {
    Shading shading = Shading::clay;
    std::string attribute;   ///< colours faces by it where shading is attribute
    ColourChoice colours;    ///< how values become colours
    std::string arrows;      ///< a vector attribute drawn as arrows; empty: none
    double arrowLength = 1;  ///< times the vector; unit vectors are about a twentieth of the model at 1
    double apart = 0;        ///< pieces are drawn so far apart: part of their distance from the middle
    bool points = false, normals = false, openEdges = false;
    bool interactive = true;  ///< with what only a view needs that is turned: edges of faces, whether it is closed, fewer triangles
    bool flat = false;        ///< faces have their own normal at each corner: where they are so small that nobody sees more, and it is made sooner
    bool whole = true;        ///< with what a view needs of the whole: its shadow, what spans it. Not for the shape of a copy
    bool operator==(const SceneLook&) const = default;
};

/// What pictures of a geometry by itself show: its own colours.
SceneLook lookForPictures();

struct DrawScene;

/// Copies of one shape: it is drawn and searched once for each, where each stands. A million of them must stay small, so their places are looked up in the
/// geometry.
struct DrawCopies {
    std::shared_ptr<const DrawScene> shape;
    std::vector<Index> rows;                           ///< the copies; shuffled, so that the first of them are spread over all
    std::vector<std::array<std::uint8_t, 4>> colours;  ///< of each: red, green, blue, and how far it replaces the shape's own; empty: not at all
    bool mirrored = false;                             ///< faces run the other way round on screen
};

struct DrawScene {
    struct Vertex {
        Vec3 position, normal, colour;
        Vec2 uv;  ///< place in the texture where squares are drawn; else x is how far the surface is an edge (1) or a crevice (−1)
    };
    std::vector<Vertex> vertices;                    ///< one a corner
    std::vector<Index> triangles, wire;              ///< into vertices
    std::vector<Index> triangleFace;                 ///< face of each triangle
    std::vector<Index> reduced;                      ///< fewer triangles for while the view moves; empty where it need not
    std::vector<Vertex> lines;                       ///< pairs: the curves
    std::vector<Vertex> dots;                        ///< points that stand alone, then those of curves; all points where the look wants them
    std::size_t looseDots = 0;                       ///< how many of them stand alone
    std::vector<Vertex> arrows, normals, openEdges;  ///< pairs
    std::vector<Vertex> shadow;                      ///< triangles on the ground; uv.x says how dark. Looked up for views
    Bounds bounds;
    std::vector<Vec3> extremes;  ///< what spans it from any side; looked up for views
    bool comesApart = false;     ///< it is in pieces; looked up for views
    bool hasKinds = false;       ///< its faces are of several kinds (old skin, broken …); looked up for views
    Vec3 size;                   ///< of what is shown, where it is drawn apart as well
    std::size_t faceCount = 0, pointCount = 0, copyCount = 0, openEdgeCount = 0;
    std::uint64_t drawnFaces = 0;            ///< with copies
    bool closed = false, allClosed = false;  ///< the faces themselves; with those of copies
    bool dotsCut = false;                    ///< there are more points than are drawn
    std::vector<DrawCopies> copies;          ///< of what is drawn as copies
    Geometry geometry;                       ///< what is drawn, and where: rows that are picked or marked are its rows
    Shading shading = Shading::clay;
    Legend legend;                     ///< what the colours mean
    std::optional<Column> values;      ///< what the colours show: for each corner, or for each point where there are no faces
    std::optional<Column> copyValues;  ///< the same for each copy
};

/// Above this many triangles a reduced list is made.
inline constexpr std::size_t kReduceAbove = 120000;

/// `before` is what the shading `difference` compares with.
std::shared_ptr<const DrawScene> drawScene(const Geometry& geometry, const SceneLook& look, const Geometry* before = nullptr);

/// Triangles with all copies; lines and dots of copies count as much.
std::size_t triangleCount(const DrawScene& mesh);

/// The value that is shown at a picked place, and the element that holds it, for people; empty where the colours mean nothing there.
std::string valueAt(const DrawScene& mesh, Element picked, Index row, Vec3 at);

/// Names of attributes that can colour the stage.
std::vector<std::string> colourableAttributes(const Geometry& geometry);
/// Names of attributes with three components, for arrows.
std::vector<std::string> vectorAttributes(const Geometry& geometry);

}  // namespace seedloom
