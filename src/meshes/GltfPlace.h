#pragma once
// A copy's place as glTF's instances write it: moved, turned and sized.
#include "geometry/Affine.h"

#include <array>
#include <optional>

namespace seedloom {

inline constexpr const char* kInstancing = "EXT_mesh_gpu_instancing";

struct GltfPlace {
    Vec3 move, size;
    Vec4 turn;  ///< a unit quaternion x y z w
};

/// Nothing where the map's axes are not at right angles, or have no length. Mirrored ones have a negative x size.
std::optional<GltfPlace> gltfPlaceOf(const Affine& map);
Affine affineOf(const GltfPlace& place);
/// Column by column.
std::array<float, 16> gltfMatrix(const Affine& map);

}  // namespace seedloom
