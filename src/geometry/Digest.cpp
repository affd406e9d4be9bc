#include "geometry/Digest.h"

#include <fmt/format.h>
#include <xxhash.h>

namespace seedloom {

std::string Digest::hex() const { return fmt::format("{:016x}{:016x}", high, low); }

Digester::Digester() : state_(XXH3_createState()) { XXH3_128bits_reset(static_cast<XXH3_state_t*>(state_)); }
Digester::~Digester() { XXH3_freeState(static_cast<XXH3_state_t*>(state_)); }

void Digester::add(const void* bytes, std::size_t size) {
    if (size) XXH3_128bits_update(static_cast<XXH3_state_t*>(state_), bytes, size);
}

void Digester::add(std::string_view text) {
    add(std::uint64_t(text.size()));
    add(text.data(), text.size());
}

Digest Digester::finish() const {
    const auto hash = XXH3_128bits_digest(static_cast<const XXH3_state_t*>(state_));
    return {hash.high64, hash.low64};
}

namespace {

template <class T> void addVector(Digester& digester, const std::vector<T>& values) {
    digester.add(std::uint64_t(values.size()));
    digester.add(values.data(), values.size() * sizeof(T));
}

void addColumn(Digester& digester, const Column& column) {
    digester.add(std::uint64_t(column.type()));
    std::visit(
        [&](const auto& shared) {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            if constexpr (std::is_same_v<T, std::string>)
                for (const auto& text : *shared) digester.add(std::string_view(text));
            else addVector(digester, *shared);
        },
        column.data());
}

void addGeometry(Digester& digester, const Geometry& geometry) {
    const Topology& t = geometry.topology();
    addVector(digester, t.faceStart());
    addVector(digester, t.cornerPoint());
    addVector(digester, t.curveStart());
    addVector(digester, t.curvePoint());
    addVector(digester, t.curveClosed());
    for (Element element : kAllElements) {
        digester.add(std::uint64_t(geometry.table(element).size()));
        for (const auto& [name, column] : geometry.table(element)) {
            digester.add(std::string_view(name));
            addColumn(digester, column);
        }
    }
    digester.add(std::uint64_t(geometry.copyCount()));
    if (const Copies* copies = geometry.copies()) {
        addVector(digester, copies->shapeOf);
        addVector(digester, copies->place);
        for (const auto& shape : copies->shapes) addGeometry(digester, *shape);
    }
}

}  // namespace

Digest digestOf(const Geometry& geometry) {
    Digester digester;
    addGeometry(digester, geometry);
    return digester.finish();
}

}  // namespace seedloom
