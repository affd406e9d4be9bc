#include "geometry/RayScene.h"

#include "geometry/Triangulate.h"

#include <embree3/rtcore.h>

#include <limits>

namespace seedloom {

struct RayScene::Scene {
    RTCDevice device = rtcNewDevice("threads=1");
    RTCScene scene = device ? rtcNewScene(device) : nullptr;
    Triangles triangles;
    ~Scene() {
        if (scene) rtcReleaseScene(scene);
        if (device) rtcReleaseDevice(device);
    }
};

namespace {

/// The library refuses places and directions near the end of the numbers.
bool usable(Vec3 from, Vec3 direction) {
    constexpr float kFarthest = 1e18f;
    for (int c = 0; c < 3; ++c)
        if (!(std::abs(from[c]) < kFarthest) || !(std::abs(direction[c]) < kFarthest)) return false;
    return true;
}

void place(RTCRay& ray, Vec3 from, Vec3 direction, float start, float end) {
    ray.org_x = from.x, ray.org_y = from.y, ray.org_z = from.z;
    ray.dir_x = direction.x, ray.dir_y = direction.y, ray.dir_z = direction.z;
    ray.tnear = start;
    ray.tfar = end;
    ray.mask = ~0u;
}

}  // namespace

RayScene::RayScene(const Geometry& g) : scene_(std::make_unique<Scene>()) {
    if (!scene_->scene) return;
    rtcSetSceneFlags(scene_->scene, RTC_SCENE_FLAG_ROBUST);
    scene_->triangles = triangulate(g);
    const Triangles& triangles = scene_->triangles;
    RTCGeometry mesh = rtcNewGeometry(scene_->device, RTC_GEOMETRY_TYPE_TRIANGLE);
    auto* places = static_cast<Vec3*>(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, sizeof(Vec3), g.pointCount()));
    auto* corners = static_cast<Index*>(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 3 * sizeof(Index), triangles.count()));
    if (places) std::copy(g.positions().begin(), g.positions().end(), places);
    for (std::size_t i = 0; corners && i < triangles.corners.size(); ++i) corners[i] = g.topology().cornerPoint()[triangles.corners[i]];
    rtcCommitGeometry(mesh);
    rtcAttachGeometry(scene_->scene, mesh);
    rtcReleaseGeometry(mesh);
    rtcCommitScene(scene_->scene);
}

RayScene::~RayScene() = default;

bool RayScene::valid() const { return scene_->scene != nullptr; }

std::optional<float> RayScene::firstHit(Vec3 from, Vec3 direction, float start) const {
    const auto met = hit(from, direction, start);
    return met ? std::optional(met->distance) : std::nullopt;
}

std::optional<RayHit> RayScene::hit(Vec3 from, Vec3 direction, float start) const {
    if (!valid() || !usable(from, direction)) return {};
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit ray{};
    place(ray.ray, from, direction, start, std::numeric_limits<float>::infinity());
    ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(scene_->scene, &context, &ray);
    if (ray.hit.geomID == RTC_INVALID_GEOMETRY_ID) return {};
    const std::size_t t = ray.hit.primID;
    const auto& corners = scene_->triangles.corners;
    return RayHit{ray.ray.tfar,
                  scene_->triangles.faceOf[t],
                  {corners[3 * t], corners[3 * t + 1], corners[3 * t + 2]},
                  {1 - ray.hit.u - ray.hit.v, ray.hit.u, ray.hit.v}};
}

bool RayScene::blocked(Vec3 from, Vec3 direction, float start, float end) const {
    if (!valid() || !usable(from, direction)) return false;
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRay ray{};
    place(ray, from, direction, start, end);
    rtcOccluded1(scene_->scene, &context, &ray);
    return ray.tfar < 0;  // the library's sign that something was met
}

}  // namespace seedloom
