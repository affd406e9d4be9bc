#include "geometry/RayScene.h"

#include "geometry/RayDevice.h"
#include "geometry/Triangulate.h"

#include <limits>

namespace seedloom {

struct RayScene::Scene {
    RayDevice device;
    RTCScene scene = notNull(rtcNewScene(device.handle()));
    Triangles triangles;
    ~Scene() { rtcReleaseScene(scene); }
};

RayScene::RayScene(const Geometry& g) : scene_(std::make_unique<Scene>()) {
    rtcSetSceneFlags(scene_->scene, RTC_SCENE_FLAG_ROBUST);
    scene_->triangles = triangulate(g);
    const Triangles& triangles = scene_->triangles;
    if (triangles.count() > 0) {
        RTCGeometry mesh = notNull(rtcNewGeometry(scene_->device.handle(), RTC_GEOMETRY_TYPE_TRIANGLE));
        rtcAttachGeometry(scene_->scene, mesh);
        rtcReleaseGeometry(mesh);  // the scene holds it, whatever happens below
        scene_->device.check();
        auto* places = static_cast<Vec3*>(notNull(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, sizeof(Vec3), g.pointCount())));
        auto* corners =
            static_cast<Index*>(notNull(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 3 * sizeof(Index), triangles.count())));
        std::copy(g.positions().begin(), g.positions().end(), places);
        for (std::size_t i = 0; i < triangles.corners.size(); ++i) corners[i] = g.topology().cornerPoint()[triangles.corners[i]];
        rtcCommitGeometry(mesh);
    }
    commitAlone(scene_->scene);
    scene_->device.check();
}

RayScene::~RayScene() = default;

std::optional<float> RayScene::firstHit(Vec3 from, Vec3 direction, float start) const {
    const auto met = hit(from, direction, start);
    return met ? std::optional(met->distance) : std::nullopt;
}

std::optional<RayHit> RayScene::hit(Vec3 from, Vec3 direction, float start) const {
    if (!usableRay(from, direction)) return {};
    const RTCRayHit met = firstMet(scene_->scene, rayOf(from, direction, start, std::numeric_limits<float>::infinity()));
    if (met.hit.geomID == RTC_INVALID_GEOMETRY_ID) return {};
    const std::size_t t = met.hit.primID;
    const auto& corners = scene_->triangles.corners;
    return RayHit{met.ray.tfar,
                  scene_->triangles.faceOf[t],
                  {corners[3 * t], corners[3 * t + 1], corners[3 * t + 2]},
                  {1 - met.hit.u - met.hit.v, met.hit.u, met.hit.v}};
}

bool RayScene::blocked(Vec3 from, Vec3 direction, float start, float end) const {
    return usableRay(from, direction) && meetsAnything(scene_->scene, rayOf(from, direction, start, end));
}

}  // namespace seedloom
