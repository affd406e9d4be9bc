#include "meshes/MeshFile.h"

#include "meshes/FileIo.h"
#include "geometry/Rows.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

namespace seedloom {

namespace {

struct Format {
    std::string ending;
    Result<Geometry> (*read)(std::string_view);
    std::string (*write)(const Geometry&);
};

const std::vector<Format>& formats() {
    static const std::vector<Format> all{{".glb", glbFromBytes, glbToBytes}, {".obj", objFromBytes, objToBytes},
                                         {".ply", plyFromBytes, plyToBytes}, {".stl", stlFromBytes, stlToBytes}};
    return all;
}

const Format* formatOf(const std::filesystem::path& path) {
    std::string ending = path.extension().string();
    std::transform(ending.begin(), ending.end(), ending.begin(), [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    for (const Format& format : formats())
        if (format.ending == ending) return &format;
    return nullptr;
}

Error unknownEnding(const std::filesystem::path& path) {
    return {"mesh.ending", fmt::format("'{}' has no known mesh ending. Known are: {}.", path.string(), fmt::join(meshEndings(), ", "))};
}

}  // namespace

const std::vector<std::string>& meshEndings() {
    static const std::vector<std::string> endings = [] {
        std::vector<std::string> out;
        for (const Format& format : formats()) out.push_back(format.ending);
        return out;
    }();
    return endings;
}

bool isMeshEnding(const std::filesystem::path& path) { return formatOf(path) != nullptr; }

Result<Geometry> readMesh(const std::filesystem::path& path) {
    const Format* format = formatOf(path);
    if (!format) return unknownEnding(path);
    const auto bytes = readFile(path);
    if (!bytes) return bytes.error();
    try {
        return format->read(*bytes);
    } catch (const std::bad_alloc&) {
        return Error{"mesh.format", fmt::format("'{}' is too large for this machine's memory.", path.string())};
    }
}

std::optional<Error> writeMesh(const Geometry& geometry, const std::filesystem::path& path) {
    const Format* format = formatOf(path);
    if (!format) return unknownEnding(path);
    return writeFileAtomically(path, format->write(bakeCopies(geometry)));
}

}  // namespace seedloom
