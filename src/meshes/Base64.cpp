#include "meshes/Base64.h"

#include <array>
#include <charconv>
#include <cstdint>

namespace seedloom {

namespace {

constexpr std::string_view kAlphabet = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
constexpr std::uint8_t kNoDigit = 255;

constexpr std::array<std::uint8_t, 256> digits() {
    std::array<std::uint8_t, 256> out{};
    out.fill(kNoDigit);
    for (std::size_t i = 0; i < kAlphabet.size(); ++i) out[static_cast<unsigned char>(kAlphabet[i])] = static_cast<std::uint8_t>(i);
    return out;
}

}  // namespace

std::string base64Encoded(std::string_view bytes) {
    std::string out;
    out.reserve((bytes.size() + 2) / 3 * 4);
    for (std::size_t at = 0; at < bytes.size(); at += 3) {
        const std::size_t have = std::min<std::size_t>(3, bytes.size() - at);
        std::uint32_t group = 0;
        for (std::size_t i = 0; i < 3; ++i) group = group << 8 | (i < have ? static_cast<unsigned char>(bytes[at + i]) : 0u);
        for (std::size_t i = 0; i < 4; ++i) out += i <= have ? kAlphabet[group >> (18 - 6 * i) & 63] : '=';
    }
    return out;
}

std::optional<std::string> base64Decoded(std::string_view text) {
    static constexpr auto kDigits = digits();
    while (!text.empty() && text.back() == '=') text.remove_suffix(1);
    if (text.size() % 4 == 1) return std::nullopt;
    std::string out;
    out.reserve(text.size() / 4 * 3 + 3);
    std::uint32_t bits = 0;
    int held = 0;
    for (unsigned char c : text) {
        if (kDigits[c] == kNoDigit) return std::nullopt;
        bits = bits << 6 | kDigits[c];
        held += 6;
        if (held >= 8) out += static_cast<char>(bits >> (held -= 8) & 255);
    }
    return out;
}

std::string percentDecoded(std::string_view text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        unsigned value = 0;
        const char* from = text.data() + i + 1;
        const bool triple = text[i] == '%' && i + 2 < text.size() && std::from_chars(from, from + 2, value, 16).ptr == from + 2;
        out += triple ? static_cast<char>(value) : text[i];
        if (triple) i += 2;
    }
    return out;
}

}  // namespace seedloom
