#include "geometry/WallThickness.h"

#include "geometry/Checkup.h"
#include "geometry/Measures.h"
#include "geometry/Triangulate.h"

#include <embree3/rtcore.h>

#include <limits>
#include <memory>

namespace seedloom {

namespace {

struct DeviceRelease {
    void operator()(RTCDevice device) const { rtcReleaseDevice(device); }
};
struct SceneRelease {
    void operator()(RTCScene scene) const { rtcReleaseScene(scene); }
};
using Device = std::unique_ptr<std::remove_pointer_t<RTCDevice>, DeviceRelease>;
using Scene = std::unique_ptr<std::remove_pointer_t<RTCScene>, SceneRelease>;

Scene sceneOf(RTCDevice device, const Geometry& g) {
    Scene scene(rtcNewScene(device));
    rtcSetSceneFlags(scene.get(), RTC_SCENE_FLAG_ROBUST);
    const Triangles triangles = triangulate(g);
    RTCGeometry mesh = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    auto* places = static_cast<Vec3*>(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, sizeof(Vec3), g.pointCount()));
    auto* corners = static_cast<Index*>(rtcSetNewGeometryBuffer(mesh, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 3 * sizeof(Index), triangles.count()));
    if (places) std::copy(g.positions().begin(), g.positions().end(), places);
    for (std::size_t i = 0; corners && i < triangles.corners.size(); ++i) corners[i] = g.topology().cornerPoint()[triangles.corners[i]];
    rtcCommitGeometry(mesh);
    rtcAttachGeometry(scene.get(), mesh);
    rtcReleaseGeometry(mesh);
    rtcCommitScene(scene.get());
    return scene;
}

}  // namespace

std::optional<WallThickness> wallThickness(const Geometry& g, std::size_t mostSamples) {
    const Checkup facts = checkupOf(g);
    if (!facts.closed || facts.nonFinitePoints > 0 || mostSamples == 0) return {};
    const Device device(rtcNewDevice("threads=1"));
    if (!device) return {};
    const Scene scene = sceneOf(device.get(), g);
    const auto normals = faceNormals(g), centres = faceCentres(g);
    // Inside out, the inside is the other way.
    const float inwards = facts.volume < 0 ? 1.0f : -1.0f;
    const auto start = float(boundsOf(g.positions()).diagonal() * 1e-5);
    WallThickness out;
    out.least = std::numeric_limits<double>::max();
    const std::size_t step = (g.faceCount() + mostSamples - 1) / mostSamples;
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    for (std::size_t f = 0; f < g.faceCount(); f += step) {
        const Vec3 way = normals[f] * inwards;
        if (!(length(way) > 0.5f)) continue;
        RTCRayHit ray{};
        ray.ray.org_x = centres[f].x, ray.ray.org_y = centres[f].y, ray.ray.org_z = centres[f].z;
        ray.ray.dir_x = way.x, ray.ray.dir_y = way.y, ray.ray.dir_z = way.z;
        ray.ray.tnear = start;
        ray.ray.tfar = std::numeric_limits<float>::infinity();
        ray.ray.mask = ~0u;
        ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
        rtcIntersect1(scene.get(), &context, &ray);
        if (ray.hit.geomID == RTC_INVALID_GEOMETRY_ID) continue;
        const auto far = double(ray.ray.tfar);
        if (far < out.least) out.least = far, out.thinnestFace = Index(f);
        out.mean += far;
        ++out.samples;
    }
    if (out.samples == 0) return {};
    out.mean /= double(out.samples);
    return out;
}

}  // namespace seedloom
