#include "render/TracedScene.h"

#include "geometry/RayDevice.h"
#include "scene/Palette.h"

#include <limits>

namespace seedloom {

namespace {

constexpr std::size_t kMostCopies = 1'000'000;
constexpr double kRod = 0.006, kBall = TracedScene::kBall;  // radius, part of the size of all
enum Kind : unsigned { faces, rods, balls, firstCopy };

/// One shape, or the scene itself, as the library holds it.
class Part {
public:
    Part(const RayDevice& device, const DrawScene& shape, float rod, float ball) : device_(device), shape_(&shape) {
        rtcSetSceneFlags(scene(), RTC_SCENE_FLAG_ROBUST);
        if (!shape.triangles.empty()) addFaces();
        if (!shape.lines.empty()) addRods(rod);
        if (shape.looseDots > 0) addBalls(ball);
    }

    RTCScene scene() const { return scene_.get(); }
    void commit() {
        commitAlone(scene());
        device_.check();
    }

    void addCopy(const Part& shape, const Affine& place, unsigned id) {
        RTCGeometry instance = attached(RTC_GEOMETRY_TYPE_INSTANCE, id);
        rtcSetGeometryInstancedScene(instance, shape.scene());
        rtcSetGeometryTransform(instance, 0, RTC_FORMAT_FLOAT3X4_COLUMN_MAJOR, &place);
        rtcCommitGeometry(instance);
    }

    /// Normal and colour in the shape's own space of what was met.
    Vec3 normalOf(const RTCHit& hit) const { return hit.geomID == faces ? mixed(hit, &DrawScene::Vertex::normal) : Vec3{hit.Ng_x, hit.Ng_y, hit.Ng_z}; }
    Vec3 colourOf(const RTCHit& hit) const {
        if (hit.geomID == faces) return mixed(hit, &DrawScene::Vertex::colour);
        return hit.geomID == rods ? shape_->lines[hit.primID * 2].colour : shape_->dots[hit.primID].colour;
    }

private:
    struct Release {
        void operator()(RTCScene scene) const { rtcReleaseScene(scene); }
    };

    /// A new geometry that the scene holds; to be filled and committed.
    RTCGeometry attached(RTCGeometryType type, unsigned id) {
        RTCGeometry geometry = notNull(rtcNewGeometry(device_.handle(), type));
        rtcAttachGeometryByID(scene(), geometry, id);
        rtcReleaseGeometry(geometry);
        device_.check();
        return geometry;
    }
    void addFaces() {
        RTCGeometry mesh = attached(RTC_GEOMETRY_TYPE_TRIANGLE, faces);
        // Behind each position there is more of the vertex, as the library wants it.
        rtcSetSharedGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, shape_->vertices.data(), offsetof(DrawScene::Vertex, position),
                                   sizeof(DrawScene::Vertex), shape_->vertices.size());
        rtcSetSharedGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, shape_->triangles.data(), 0, 3 * sizeof(Index),
                                   shape_->triangles.size() / 3);
        rtcCommitGeometry(mesh);
    }
    void addRods(float radius) {
        RTCGeometry curves = attached(RTC_GEOMETRY_TYPE_ROUND_LINEAR_CURVE, rods);
        fill(curves, shape_->lines, shape_->lines.size(), radius);
        const std::size_t count = shape_->lines.size() / 2;
        auto* first = static_cast<Index*>(notNull(rtcSetNewGeometryBuffer(curves, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT, sizeof(Index), count)));
        for (std::size_t i = 0; i < count; ++i) first[i] = Index(i * 2);
        rtcCommitGeometry(curves);
    }
    void addBalls(float radius) {
        RTCGeometry points = attached(RTC_GEOMETRY_TYPE_SPHERE_POINT, balls);
        fill(points, shape_->dots, shape_->looseDots, radius);
        rtcCommitGeometry(points);
    }
    static void fill(RTCGeometry to, const std::vector<DrawScene::Vertex>& from, std::size_t count, float radius) {
        auto* places = static_cast<Vec4*>(notNull(rtcSetNewGeometryBuffer(to, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT4, sizeof(Vec4), count)));
        for (std::size_t i = 0; i < count; ++i) places[i] = {from[i].position.x, from[i].position.y, from[i].position.z, radius};
    }
    Vec3 mixed(const RTCHit& hit, Vec3 DrawScene::Vertex::*what) const {
        const Index* corner = &shape_->triangles[std::size_t(hit.primID) * 3];
        return shape_->vertices[corner[0]].*what * (1 - hit.u - hit.v) + shape_->vertices[corner[1]].*what * hit.u + shape_->vertices[corner[2]].*what * hit.v;
    }

    const RayDevice& device_;
    const DrawScene* shape_;
    std::unique_ptr<RTCSceneTy, Release> scene_{notNull(rtcNewScene(device_.handle()))};
};

/// A place that the library can turn around: what is pressed flat gets a very small thickness. Nothing where it is pressed to a line.
std::optional<Affine> solidPlace(Affine place) {
    if (place.determinant() != 0) return place;
    Vec3* axes[] = {&place.x, &place.y, &place.z};
    std::sort(axes, axes + 3, [](const Vec3* a, const Vec3* b) { return dot(*a, *a) < dot(*b, *b); });
    const Vec3 across = cross(*axes[1], *axes[2]);
    if (!(dot(across, across) > 0)) return {};
    *axes[0] += normalized(across) * (length(*axes[2]) * 1e-4f);
    return place.determinant() != 0 ? std::optional(place) : std::nullopt;
}

bool usable(const Affine& place) { return isFinite(place.x) && isFinite(place.y) && isFinite(place.z) && isFinite(place.move); }

/// How many times larger copies are than their shape, by the first of them.
float stretchOf(const DrawCopies& copies, const std::vector<Affine>& places) {
    const float size = copies.rows.empty() ? 1 : float(std::cbrt(std::abs(places[copies.rows[0]].determinant())));
    return size > 1e-6f ? size : 1;
}

}  // namespace

struct TracedScene::Parts {
    struct Copy {
        std::size_t part;
        Affine place;
        Vec3 colour;
        float coloured = 0;  ///< how far the colour replaces the shape's own
    };

    const std::shared_ptr<const DrawScene> scene;  ///< the library reads its arrays
    RayDevice device;
    std::vector<std::unique_ptr<Part>> shapes;
    std::unique_ptr<Part> all;
    std::vector<Copy> copies;

    explicit Parts(std::shared_ptr<const DrawScene> given) : scene(std::move(given)) {
        const double size = TracedScene::sizeOf(*scene);
        all = std::make_unique<Part>(device, *scene, float(size * kRod), float(size * kBall));
        std::size_t count = 0;
        for (const DrawCopies& group : scene->copies) count += group.rows.size();
        const double part = count > kMostCopies ? double(kMostCopies) / double(count) : 1;
        for (const DrawCopies& group : scene->copies) addGroup(group, size, part);
        all->commit();
    }

    void addGroup(const DrawCopies& group, double size, double part) {
        const std::vector<Affine>& places = scene->geometry.copies()->place;
        const double thin = size / double(stretchOf(group, places));
        shapes.push_back(std::make_unique<Part>(device, *group.shape, float(thin * kRod), float(thin * kBall)));
        shapes.back()->commit();
        const auto shown = std::size_t(std::ceil(double(group.rows.size()) * part));
        for (std::size_t i = 0; i < shown; ++i) {
            const Affine& given = places[group.rows[i]];
            const auto place = usable(given) ? solidPlace(given) : std::nullopt;
            if (!place) continue;
            Copy copy{shapes.size() - 1, *place, {}, 0};
            if (!group.colours.empty()) {
                const auto& c = group.colours[i];
                copy.colour = Vec3{float(c[0]), float(c[1]), float(c[2])} / 255;
                copy.coloured = float(c[3]) / 255;
            }
            all->addCopy(*shapes.back(), *place, firstCopy + unsigned(copies.size()));
            copies.push_back(copy);
        }
    }
};

double TracedScene::sizeOf(const DrawScene& scene) { return std::max({scene.bounds.diagonal(), double(length(scene.bounds.centre())) * 1e-3, 1e-6}); }

TracedScene::TracedScene(std::shared_ptr<const DrawScene> scene) : parts_(std::make_unique<Parts>(std::move(scene))) {}
TracedScene::~TracedScene() = default;

std::optional<TracedScene::Hit> TracedScene::hit(Vec3 from, Vec3 direction) const {
    if (!usableRay(from, direction)) return {};
    const RTCRayHit ray = firstMet(parts_->all->scene(), rayOf(from, direction, 0, std::numeric_limits<float>::infinity()));
    if (ray.hit.geomID == RTC_INVALID_GEOMETRY_ID) return {};
    Hit out{ray.ray.tfar, {}, {}};
    if (ray.hit.instID[0] == RTC_INVALID_GEOMETRY_ID) {
        out.normal = parts_->all->normalOf(ray.hit);
        out.colour = parts_->all->colourOf(ray.hit);
    } else {
        const Parts::Copy& copy = parts_->copies[ray.hit.instID[0] - firstCopy];
        const Part& shape = *parts_->shapes[copy.part];
        out.normal = copy.place.normal(shape.normalOf(ray.hit));
        out.colour = mix(shape.colourOf(ray.hit), copy.colour, copy.coloured);
    }
    out.normal = normalized(out.normal, -direction);
    if (dot(out.normal, direction) > 0) out.normal = -out.normal;
    return out;
}

bool TracedScene::blocked(Vec3 from, Vec3 direction, float within) const {
    return usableRay(from, direction) && meetsAnything(parts_->all->scene(), rayOf(from, direction, 0, within));
}

}  // namespace seedloom
