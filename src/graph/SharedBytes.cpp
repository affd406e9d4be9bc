#include "graph/SharedBytes.h"

#include <algorithm>

namespace seedloom {

std::size_t HeldParts::whole() const {
    std::size_t bytes = own;
    for (const auto& part : parts) bytes += part.second;
    return bytes;
}

HeldParts partsOf(const NodeOutcome& outcome) {
    constexpr std::size_t kEntry = 256;  // places in lists and maps
    HeldParts out;
    const auto note = [&](const void* part, std::size_t bytes) { out.parts.emplace_back(part, bytes); };
    outcome.geometry.eachPart(note);
    for (const Geometry& other : outcome.others) other.eachPart(note);
    std::sort(out.parts.begin(), out.parts.end());
    out.parts.erase(std::unique(out.parts.begin(), out.parts.end(), [](const auto& a, const auto& b) { return a.first == b.first; }), out.parts.end());
    out.own = kEntry + sizeof(NodeOutcome) + outcome.others.size() * sizeof(Geometry);
    for (const Notice& notice : outcome.notices)
        out.own += sizeof notice + notice.text.size() + notice.code.size() + notice.setting.size() + notice.node.size();
    return out;
}

void SharedBytes::add(const HeldParts& held) {
    // Places first: where memory ends here, nothing is counted. Those that nobody uses yet are harmless.
    for (const auto& [part, bytes] : held.parts) parts_.try_emplace(part, Part{bytes, 0});
    for (const auto& [part, bytes] : held.parts)
        if (Part& known = parts_.find(part)->second; known.users++ == 0) bytes_ += known.bytes = bytes;
    bytes_ += held.own;
}

void SharedBytes::remove(const HeldParts& held) {
    for (const auto& part : held.parts) {
        const auto known = parts_.find(part.first);
        if (known == parts_.end() || --known->second.users > 0) continue;
        bytes_ -= known->second.bytes;
        parts_.erase(known);
    }
    bytes_ -= held.own;
}

}  // namespace seedloom
