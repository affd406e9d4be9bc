#pragma once
// Mesh files by their ending: .glb .gltf .obj .ply .stl, and .3mf for reading. Positions are taken to be metres, +Y up, as they stand in the
// file; only 3MF names its unit and means +Z up, and is turned.
#include "files/FileSource.h"
#include "geometry/Geometry.h"

#include <filesystem>
#include <optional>

namespace seedloom {

/// Endings that can be read, and those of them that can be written, with the dot.
const std::vector<std::string>& readableEndings();
const std::vector<std::string>& writableEndings();
bool isReadable(const std::filesystem::path& path);
bool isWritable(const std::filesystem::path& path);

/// Errors: `file.read`, `mesh.format` (with line or byte where that helps), `mesh.ending`. Formats that store a point once per face
/// (.stl, .glb, .gltf) are joined where positions are the same to the bit.
Result<Geometry> readMesh(const std::filesystem::path& path, const FileSource& files = *diskFiles());
/// What a file would hold: copies count in full where the format has none.
struct FileEstimate {
    std::uint64_t triangles = 0, bytes = 0;
    bool baked = false;  ///< copies have to be baked for this format
};
FileEstimate estimateFile(const Geometry& geometry, const std::filesystem::path& path);
/// From here on people should be asked before a file with baked copies is written.
inline constexpr std::uint64_t kLargeFileBytes = 200'000'000;

/// The same geometry gives the same bytes. Copies stay copies in .glb and .gltf, and are baked elsewhere. Atomic: a failure leaves an older file as it was.
/// Errors: `mesh.ending`, `mesh.too_large` where baked copies would be more than can be held.
std::optional<Error> writeMesh(const Geometry& geometry, const std::filesystem::path& path);

// The single formats, from and to bytes.
Result<Geometry> objFromBytes(std::string_view bytes);
Result<Geometry> stlFromBytes(std::string_view bytes);
Result<Geometry> plyFromBytes(std::string_view bytes);
/// Binary or JSON; files with data are looked for in `folder`, and nowhere else.
Result<Geometry> gltfFromBytes(std::string_view bytes, const std::filesystem::path& folder = {}, const FileSource& files = *diskFiles());
Result<Geometry> threeMfFromBytes(std::string_view bytes);
std::string objToBytes(const Geometry& geometry);
std::string stlToBytes(const Geometry& geometry);
std::string plyToBytes(const Geometry& geometry);
std::string glbToBytes(const Geometry& geometry);
std::string gltfToText(const Geometry& geometry);

}  // namespace seedloom
