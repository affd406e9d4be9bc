#include "meshes/MeshFile.h"

#include "files/FileIo.h"
#include "geometry/Bake.h"
#include "geometry/Rows.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

namespace seedloom {

namespace {

struct Format {
    std::string ending;
    Result<Geometry> (*read)(std::string_view bytes, const std::filesystem::path& folder, const FileSource& files);
    std::string (*write)(const Geometry&);  ///< nullptr where it is only read
    bool copies = false;                    ///< knows copies
};

/// For formats that keep all in one file.
template <Result<Geometry> (*read)(std::string_view)> Result<Geometry> alone(std::string_view bytes, const std::filesystem::path&, const FileSource&) {
    return read(bytes);
}

const std::vector<Format>& formats() {
    static const std::vector<Format> all{{".glb", gltfFromBytes, glbToBytes, true}, {".gltf", gltfFromBytes, gltfToText, true},
                                         {".obj", alone<objFromBytes>, objToBytes}, {".ply", alone<plyFromBytes>, plyToBytes},
                                         {".stl", alone<stlFromBytes>, stlToBytes}, {".3mf", alone<threeMfFromBytes>, nullptr}};
    return all;
}

const Format* formatOf(const std::filesystem::path& path) {
    std::string ending = path.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    for (const Format& format : formats())
        if (format.ending == ending) return &format;
    return nullptr;
}

std::vector<std::string> endings(bool writable) {
    std::vector<std::string> out;
    for (const Format& format : formats())
        if (!writable || format.write) out.push_back(format.ending);
    return out;
}

Error unknownEnding(const std::filesystem::path& path, const char* what, const std::vector<std::string>& known) {
    return {"mesh.ending", fmt::format("'{}' has no ending of a mesh that can be {}. Those are: {}.", path.string(), what, fmt::join(known, ", "))};
}

}  // namespace

const std::vector<std::string>& readableEndings() {
    static const std::vector<std::string> all = endings(false);
    return all;
}

const std::vector<std::string>& writableEndings() {
    static const std::vector<std::string> all = endings(true);
    return all;
}

bool isReadable(const std::filesystem::path& path) { return formatOf(path) != nullptr; }

bool isWritable(const std::filesystem::path& path) {
    const Format* format = formatOf(path);
    return format && format->write;
}

Result<Geometry> readMesh(const std::filesystem::path& path, const FileSource& files) {
    const Format* format = formatOf(path);
    if (!format) return unknownEnding(path, "read", readableEndings());
    const auto bytes = files.read(path);
    if (!bytes) return bytes.error();
    try {
        return format->read(*bytes, path.parent_path().empty() ? "." : path.parent_path(), files);
    } catch (const std::bad_alloc&) {
        return Error{"mesh.format", fmt::format("'{}' is too large for this machine's memory.", path.string())};
    }
}

FileEstimate estimateFile(const Geometry& geometry, const std::filesystem::path& path) {
    // Bytes a triangle and a point, measured on closed meshes with uv and normals.
    struct Cost {
        const char* ending;
        double triangle, point, copy;
    };
    constexpr Cost costs[] = {{".glb", 12, 44, 60}, {".gltf", 16, 59, 80}, {".obj", 42, 90, 0}, {".ply", 13, 40, 0}, {".stl", 50, 0, 0}};
    const Format* format = formatOf(path);
    FileEstimate out;
    if (!format) return out;
    out.baked = geometry.copyCount() > 0 && !format->copies;
    Geometry own = geometry;
    if (!out.baked) own.setCopies(nullptr);
    ElementCounts counts = bakedCounts(own);
    if (!out.baked && geometry.copies())
        for (const auto& shape : geometry.copies()->shapes) {
            const ElementCounts more = bakedCounts(*shape);
            counts.triangles += more.triangles, counts.points += more.points;
        }
    out.triangles = counts.triangles;
    for (const Cost& cost : costs)
        if (format->ending == cost.ending)
            out.bytes = std::uint64_t(cost.triangle * double(counts.triangles) + cost.point * double(counts.points) +
                                      (out.baked ? 0 : cost.copy * double(geometry.copyCount())));
    return out;
}

std::optional<Error> writeMesh(const Geometry& geometry, const std::filesystem::path& path) {
    if (!isWritable(path)) return unknownEnding(path, "written", writableEndings());
    const Format* format = formatOf(path);
    try {
        return writeFileAtomically(path, format->write(format->copies ? geometry : bakeCopies(geometry)));
    } catch (const std::bad_alloc&) {
    } catch (const std::length_error&) {}
    const FileEstimate estimate = estimateFile(geometry, path);
    return Error{"mesh.too_large", fmt::format("{} triangles are more than can be held for '{}'. Write .glb, which knows copies, or place fewer of them.",
                                               estimate.triangles, path.string())};
}

}  // namespace seedloom
