#pragma once
// Binary data in text (RFC 4648, section 4), and percent-encoded names (RFC 3986, section 2.1), as glTF files use them.
#include <optional>
#include <string>
#include <string_view>

namespace seedloom {

std::string base64Encoded(std::string_view bytes);
/// nullopt where there are other characters than those of the alphabet, or a group is not complete.
std::optional<std::string> base64Decoded(std::string_view text);
/// Each %XX becomes its byte; what is no such triple stays.
std::string percentDecoded(std::string_view text);

}  // namespace seedloom
