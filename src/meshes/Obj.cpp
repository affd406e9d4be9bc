// Wavefront OBJ: points, texture places, normals, faces and lines. Groups and materials are passed over.
#include "geometry/Measures.h"
#include "meshes/MeshBuilder.h"
#include "meshes/MeshFile.h"

#include <charconv>
#include <cstring>
#include <map>

namespace seedloom {

namespace {

struct ParseFailure {
    std::string text;
};

class ObjReader {
public:
    explicit ObjReader(std::string_view text) : at_(text.data()), end_(text.data() + text.size()) {}

    Result<Geometry> run() {
        try {
            for (; at_ < end_; ++line_) readLine();
        } catch (const ParseFailure& failure) {
            return Error{"mesh.format", fmt::format("Line {}: {}.", line_, failure.text)};
        }
        mesh_.hasUv = anyUv_;
        mesh_.hasNormal = anyNormal_;
        return mesh_.finish();
    }

private:
    void readLine() {
        skipBlanks();
        const char* word = at_;
        while (at_ < end_ && !blank(*at_) && *at_ != '\n') ++at_;
        const std::string_view kind(word, static_cast<std::size_t>(at_ - word));
        if (kind == "v") mesh_.positions.push_back(vec3());
        else if (kind == "vt") uvs_.push_back({number(), skipBlanks() ? number() : 0});
        else if (kind == "vn") normals_.push_back(vec3());
        else if (kind == "f") face();
        else if (kind == "l") polyline();
        while (at_ < end_ && *at_ != '\n') ++at_;
        if (at_ < end_) ++at_;
    }
    static bool blank(char c) { return c == ' ' || c == '\t' || c == '\r'; }
    /// False at the end of the line. A backslash joins the next line.
    bool skipBlanks() {
        while (at_ < end_) {
            if (blank(*at_)) ++at_;
            else if (*at_ == '\\' && at_ + 1 < end_ && (at_[1] == '\n' || at_[1] == '\r'))
                at_ += at_[1] == '\r' && at_ + 2 < end_ && at_[2] == '\n' ? 3 : 2, ++line_;
            else break;
        }
        return at_ < end_ && *at_ != '\n' && *at_ != '#';
    }
    float number() {
        skipBlanks();
        if (at_ < end_ && *at_ == '+') ++at_;
        float value = 0;
        const auto [next, error] = std::from_chars(at_, end_, value);
        if (error == std::errc::result_out_of_range) value = 0;  // Too small or too large for a float; zero keeps the file usable.
        else if (error != std::errc()) throw ParseFailure{"a number was expected"};
        at_ = next;
        return value;
    }
    Vec3 vec3() {
        const float x = number(), y = number(), z = number();
        return {x, y, z};
    }
    /// A 1-based or negative (from the end) number as an index.
    Index index(std::size_t count, const char* what) {
        long long value = 0;
        const auto [next, error] = std::from_chars(at_, end_, value);
        if (error != std::errc()) throw ParseFailure{fmt::format("the number of a {} was expected", what)};
        at_ = next;
        const long long i = value < 0 ? static_cast<long long>(count) + value : value - 1;
        if (value == 0 || i < 0 || i >= static_cast<long long>(count)) throw ParseFailure{fmt::format("there is no {} number {}", what, value)};
        return static_cast<Index>(i);
    }
    void face() {
        const std::size_t first = mesh_.cornerPoint.size();
        while (skipBlanks()) {
            mesh_.cornerPoint.push_back(index(mesh_.positions.size(), "point"));
            Vec2 uv{};
            Vec3 normal{};
            if (at_ < end_ && *at_ == '/') {
                ++at_;
                if (at_ < end_ && *at_ != '/' && !blank(*at_) && *at_ != '\n') uv = uvs_[index(uvs_.size(), "texture place")], anyUv_ = true;
                if (at_ < end_ && *at_ == '/') ++at_, normal = normals_[index(normals_.size(), "normal")], anyNormal_ = true;
            }
            mesh_.cornerUv.push_back(uv);
            mesh_.cornerNormal.push_back(normal);
        }
        if (mesh_.cornerPoint.size() - first < 3) throw ParseFailure{"a face needs three corners"};
        mesh_.endFace();
    }
    void polyline() {
        const std::size_t first = mesh_.curvePoint.size();
        while (skipBlanks()) {
            mesh_.curvePoint.push_back(index(mesh_.positions.size(), "point"));
            if (at_ < end_ && *at_ == '/') ++at_, uvs_.empty() ? 0u : index(uvs_.size(), "texture place");
        }
        const std::size_t size = mesh_.curvePoint.size() - first;
        if (size < 2) throw ParseFailure{"a line needs two points"};
        const bool closed = size > 3 && mesh_.curvePoint.back() == mesh_.curvePoint[first];
        if (closed) mesh_.curvePoint.pop_back();
        mesh_.curveStart.push_back(static_cast<Index>(mesh_.curvePoint.size()));
        mesh_.curveClosed.push_back(closed);
    }

    const char *at_, *end_;
    std::size_t line_ = 1;
    MeshBuilder mesh_;
    std::vector<Vec2> uvs_;
    std::vector<Vec3> normals_;
    bool anyUv_ = false, anyNormal_ = false;
};

/// Numbers the different values of a column in order of first use.
template <class T> std::vector<Index> numberValues(const std::vector<T>& values, std::vector<T>& different) {
    // By bytes, so that NaN has a place in the order, too.
    const auto less = [](const T& a, const T& b) { return std::memcmp(&a, &b, sizeof(T)) < 0; };
    std::map<T, Index, decltype(less)> known(less);
    std::vector<Index> out;
    for (const T& v : values) {
        const auto [it, isNew] = known.try_emplace(v, static_cast<Index>(different.size()));
        if (isNew) different.push_back(v);
        out.push_back(it->second);
    }
    return out;
}

}  // namespace

Result<Geometry> objFromBytes(std::string_view bytes) { return ObjReader(bytes).run(); }

std::string objToBytes(const Geometry& geometry) {
    fmt::memory_buffer out;
    const auto to = std::back_inserter(out);
    fmt::format_to(to, "# Seed Loom, metres, +Y up\n");
    for (Vec3 p : geometry.positions()) fmt::format_to(to, "v {} {} {}\n", p.x, p.y, p.z);
    const auto* uv = geometry.values<Vec2>(Element::corner, "uv");
    std::vector<Vec2> uvs;
    std::vector<Index> uvOf;
    if (uv) uvOf = numberValues(*uv, uvs);
    for (Vec2 v : uvs) fmt::format_to(to, "vt {} {}\n", v.x, v.y);
    const auto* cornerNormal = geometry.values<Vec3>(Element::corner, "normal");
    const auto* pointNormal = geometry.values<Vec3>(Element::point, "normal");
    std::vector<Vec3> normals;
    std::vector<Index> normalOf;
    if (cornerNormal) normalOf = numberValues(*cornerNormal, normals);
    else if (pointNormal) normals = *pointNormal;
    for (Vec3 v : normals) fmt::format_to(to, "vn {} {} {}\n", v.x, v.y, v.z);
    const Topology& t = geometry.topology();
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) {
        fmt::format_to(to, "f");
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) {
            const Index p = t.cornerPoint()[c], n = cornerNormal ? normalOf[c] : p;
            fmt::format_to(to, " {}", p + 1);
            if (uv) fmt::format_to(to, "/{}", uvOf[c] + 1);
            if (!normals.empty()) fmt::format_to(to, "{}{}", uv ? "/" : "//", n + 1);
        }
        fmt::format_to(to, "\n");
    }
    for (std::size_t c = 0; c < geometry.curveCount(); ++c) {
        fmt::format_to(to, "l");
        for (Index p : t.curve(c)) fmt::format_to(to, " {}", p + 1);
        if (t.curveClosed(c) && !t.curve(c).empty()) fmt::format_to(to, " {}", t.curve(c).front() + 1);
        fmt::format_to(to, "\n");
    }
    return fmt::to_string(out);
}

}  // namespace seedloom
