#pragma once
// What those who call the ray library share: its failures told as exceptions, and rays that it takes. Library: Embree 3.
#include "geometry/Vec.h"

#include <embree3/rtcore.h>
#include <tbb/task_arena.h>

#include <new>
#include <stdexcept>

namespace seedloom {

/// A handle or buffer of the library; throws std::bad_alloc where there is none.
template <typename T> T* notNull(T* handle) {
    if (!handle) throw std::bad_alloc();
    return handle;
}

/// The library, on the threads that call it. A device that is asked for one thread holds the whole program to one for as long as it lives, so none is; see
/// commitAlone(). When memory ends it goes on by itself with a scene that lacks something, so `check` must follow what was built.
class RayDevice {
public:
    RayDevice() : handle_(notNull(rtcNewDevice("threads=0"))) {}
    ~RayDevice() { rtcReleaseDevice(handle_); }
    RayDevice(const RayDevice&) = delete;
    RayDevice& operator=(const RayDevice&) = delete;

    RTCDevice handle() const { return handle_; }
    /// Throws std::bad_alloc where memory ended since the last check on this thread, std::runtime_error where something else went wrong.
    void check() const {
        const RTCError error = rtcGetDeviceError(handle_);
        // Of a part that ran out of memory its builder only tells that something was cancelled.
        if (error == RTC_ERROR_OUT_OF_MEMORY || error == RTC_ERROR_UNKNOWN) throw std::bad_alloc();
        if (error != RTC_ERROR_NONE) throw std::runtime_error("The library for rays failed.");
    }

private:
    RTCDevice handle_;
};

/// Makes a scene ready on the calling thread alone, so that it is the same one every time.
inline void commitAlone(RTCScene scene) {
    tbb::task_arena alone(1);
    alone.execute([scene] { rtcCommitScene(scene); });
}

/// The library refuses places and directions near the end of the numbers.
inline bool usableRay(Vec3 from, Vec3 direction) {
    constexpr float kFarthest = 1e18f;
    for (int c = 0; c < 3; ++c)
        if (!(std::abs(from[c]) < kFarthest) || !(std::abs(direction[c]) < kFarthest)) return false;
    return true;
}

inline RTCRay rayOf(Vec3 from, Vec3 direction, float start, float end) {
    RTCRay ray{};
    ray.org_x = from.x, ray.org_y = from.y, ray.org_z = from.z;
    ray.dir_x = direction.x, ray.dir_y = direction.y, ray.dir_z = direction.z;
    ray.tnear = start;
    ray.tfar = end;
    ray.mask = ~0u;
    return ray;
}

/// The first thing that a ray meets in a scene; its `geomID` is RTC_INVALID_GEOMETRY_ID where there is none.
inline RTCRayHit firstMet(RTCScene scene, const RTCRay& ray) {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit met{ray, {}};
    met.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    met.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(scene, &context, &met);
    return met;
}

inline bool meetsAnything(RTCScene scene, RTCRay ray) {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    rtcOccluded1(scene, &context, &ray);
    return ray.tfar < 0;  // the library's sign that something was met
}

}  // namespace seedloom
