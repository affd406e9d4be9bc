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
    Result<Geometry> (*read)(std::string_view bytes, const std::filesystem::path& folder);
    std::string (*write)(const Geometry&);  ///< nullptr where it is only read
};

/// For formats that keep all in one file.
template <Result<Geometry> (*read)(std::string_view)> Result<Geometry> alone(std::string_view bytes, const std::filesystem::path&) { return read(bytes); }

const std::vector<Format>& formats() {
    static const std::vector<Format> all{{".glb", gltfFromBytes, glbToBytes},        {".gltf", gltfFromBytes, gltfToText},
                                         {".obj", alone<objFromBytes>, objToBytes},  {".ply", alone<plyFromBytes>, plyToBytes},
                                         {".stl", alone<stlFromBytes>, stlToBytes},  {".3mf", alone<threeMfFromBytes>, nullptr}};
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

Result<Geometry> readMesh(const std::filesystem::path& path) {
    const Format* format = formatOf(path);
    if (!format) return unknownEnding(path, "read", readableEndings());
    const auto bytes = readFile(path);
    if (!bytes) return bytes.error();
    try {
        return format->read(*bytes, path.parent_path().empty() ? "." : path.parent_path());
    } catch (const std::bad_alloc&) {
        return Error{"mesh.format", fmt::format("'{}' is too large for this machine's memory.", path.string())};
    }
}

std::optional<Error> writeMesh(const Geometry& geometry, const std::filesystem::path& path) {
    if (!isWritable(path)) return unknownEnding(path, "written", writableEndings());
    return writeFileAtomically(path, formatOf(path)->write(bakeCopies(geometry)));
}

}  // namespace seedloom
