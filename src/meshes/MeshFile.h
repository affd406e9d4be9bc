#pragma once
// Mesh files by their ending: .obj .stl .ply .glb. Positions in metres, +Y up, as they stand in the file.
#include "geometry/Geometry.h"
#include "geometry/Result.h"

#include <filesystem>
#include <optional>

namespace seedloom {

/// Endings that can be read and written, with the dot.
const std::vector<std::string>& meshEndings();
bool isMeshEnding(const std::filesystem::path& path);

/// Errors: `file.read`, `mesh.format` (with line or byte where that helps), `mesh.ending`. Formats that store a point once per face
/// (.stl, .glb) are joined where positions are the same to the bit.
Result<Geometry> readMesh(const std::filesystem::path& path);
/// The same geometry gives the same bytes. Copies are baked. Atomic: a failure leaves an older file as it was.
std::optional<Error> writeMesh(const Geometry& geometry, const std::filesystem::path& path);

// The single formats, from and to bytes.
Result<Geometry> objFromBytes(std::string_view bytes);
Result<Geometry> stlFromBytes(std::string_view bytes);
Result<Geometry> plyFromBytes(std::string_view bytes);
Result<Geometry> glbFromBytes(std::string_view bytes);
std::string objToBytes(const Geometry& geometry);
std::string stlToBytes(const Geometry& geometry);
std::string plyToBytes(const Geometry& geometry);
std::string glbToBytes(const Geometry& geometry);

}  // namespace seedloom
