// STL, binary and text. Triangles without common points: equal positions are joined on reading.
#include "geometry/Measures.h"
#include "geometry/Triangulate.h"
#include "geometry/Weld.h"
#include "meshes/MeshBuilder.h"
#include "meshes/MeshFile.h"

#include <array>
#include <charconv>
#include <cstring>

namespace seedloom {

namespace {

constexpr std::size_t kHead = 84, kRecord = 50;

Result<Geometry> weldedTriangles(const std::vector<Vec3>& corners) {
    const std::vector<Index> first = nearestEarlier(corners, 0);
    MeshBuilder mesh;
    std::vector<Index> number(corners.size());
    for (Index c = 0; c < corners.size(); ++c) {
        number[c] = first[c] == c ? static_cast<Index>(mesh.positions.size()) : number[first[c]];
        if (first[c] == c) mesh.positions.push_back(corners[c]);
    }
    mesh.cornerPoint.reserve(corners.size());
    mesh.faceStart.reserve(corners.size() / 3 + 1);
    for (std::size_t c = 0; c + 2 < corners.size(); c += 3) {
        const std::array<Index, 3> face{number[c], number[c + 1], number[c + 2]};
        if (face[0] == face[1] || face[1] == face[2] || face[2] == face[0]) continue;
        mesh.cornerPoint.insert(mesh.cornerPoint.end(), face.begin(), face.end());
        mesh.endFace();
    }
    return mesh.finish();
}

Result<Geometry> fromText(std::string_view text) {
    std::vector<Vec3> corners;
    std::size_t at = 0;
    const auto space = [&](char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\n'; };
    while ((at = text.find("vertex", at)) != std::string_view::npos) {
        at += 6;
        float v[3];
        for (float& number : v) {
            while (at < text.size() && space(text[at])) ++at;
            if (at < text.size() && text[at] == '+') ++at;
            const auto [next, error] = std::from_chars(text.data() + at, text.data() + text.size(), number);
            if (error != std::errc()) return Error{"mesh.format", fmt::format("Byte {}: a number was expected after 'vertex'.", at)};
            at = static_cast<std::size_t>(next - text.data());
        }
        corners.push_back({v[0], v[1], v[2]});
    }
    if (corners.empty() && text.find("endsolid") == std::string_view::npos)
        return Error{"mesh.format", "The file begins as an STL text, but breaks off before its first triangle. Export it again."};
    if (corners.size() % 3 != 0) return Error{"mesh.format", "The last triangle of the STL file is not complete."};
    return weldedTriangles(corners);
}

}  // namespace

Result<Geometry> stlFromBytes(std::string_view bytes) {
    std::uint32_t count = 0;
    if (bytes.size() >= kHead) std::memcpy(&count, bytes.data() + 80, 4);
    // Binary files may also start with the word "solid": their length decides.
    const bool binary = bytes.size() >= kHead && bytes.size() >= kHead + std::size_t(count) * kRecord;
    const bool looksText = bytes.substr(0, 5) == "solid" && bytes.find("facet") != std::string_view::npos;
    if (looksText && !(binary && bytes.size() == kHead + std::size_t(count) * kRecord)) return fromText(bytes);
    if (bytes.substr(0, 5) == "solid" && bytes.find("endsolid") != std::string_view::npos) return fromText(bytes);
    if (!binary)
        return Error{"mesh.format", bytes.size() < kHead ? std::string("The file is too short for an STL file.")
                                                         : fmt::format("The file says {} triangles, but is too short for them.", count)};
    std::vector<Vec3> corners(std::size_t(count) * 3);
    for (std::size_t t = 0; t < count; ++t) std::memcpy(&corners[t * 3], bytes.data() + kHead + t * kRecord + 12, 36);
    return weldedTriangles(corners);
}

std::string stlToBytes(const Geometry& geometry) {
    const Triangles triangles = triangulate(geometry);
    std::string out(kHead + triangles.count() * kRecord, '\0');
    constexpr std::string_view title = "Seed Loom, metres, +Y up";
    std::memcpy(out.data(), title.data(), title.size());
    const auto count = static_cast<std::uint32_t>(triangles.count());
    std::memcpy(out.data() + 80, &count, 4);
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        Vec3 record[4];
        for (std::size_t i = 0; i < 3; ++i) record[i + 1] = geometry.positions()[geometry.topology().cornerPoint()[triangles.corners[t * 3 + i]]];
        record[0] = normalized(cross(record[2] - record[1], record[3] - record[1]), {});
        std::memcpy(out.data() + kHead + t * kRecord, record, sizeof record);
    }
    return out;
}

}  // namespace seedloom
