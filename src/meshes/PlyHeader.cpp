#include "meshes/Ply.h"

#include <fmt/format.h>

#include <charconv>
#include <map>
#include <sstream>

namespace seedloom {

std::size_t byteSize(PlyType type) {
    constexpr std::size_t sizes[] = {1, 1, 2, 2, 4, 4, 4, 8};
    return sizes[static_cast<std::size_t>(type)];
}

namespace {

bool typeOf(const std::string& word, PlyType& type) {
    static const std::map<std::string, PlyType> words{{"char", PlyType::int8},      {"int8", PlyType::int8},       {"uchar", PlyType::uint8},
                                                      {"uint8", PlyType::uint8},    {"short", PlyType::int16},     {"int16", PlyType::int16},
                                                      {"ushort", PlyType::uint16},  {"uint16", PlyType::uint16},   {"int", PlyType::int32},
                                                      {"int32", PlyType::int32},    {"uint", PlyType::uint32},     {"uint32", PlyType::uint32},
                                                      {"float", PlyType::float32},  {"float32", PlyType::float32}, {"double", PlyType::float64},
                                                      {"float64", PlyType::float64}};
    const auto it = words.find(word);
    if (it == words.end()) return false;
    type = it->second;
    return true;
}

std::string readLine(std::istringstream& line, PlyHeader& header) {
    std::string word;
    line >> word;
    if (word == "format") {
        std::string coding;
        line >> coding;
        if (coding == "ascii") header.coding = PlyCoding::text;
        else if (coding == "binary_little_endian") header.coding = PlyCoding::littleEndian;
        else if (coding == "binary_big_endian") header.coding = PlyCoding::bigEndian;
        else return fmt::format("'{}' is no known coding", coding);
    } else if (word == "element") {
        PlyElement element;
        std::string count;
        line >> element.name >> count;
        const auto [end, error] = std::from_chars(count.data(), count.data() + count.size(), element.count);
        if (error != std::errc() || count.empty()) return "the number of elements can't be read";
        header.elements.push_back(element);
    } else if (word == "property") {
        if (header.elements.empty()) return "a property stands before the first element";
        PlyProperty property;
        std::string type, countType;
        line >> type;
        if (type == "list") {
            property.list = true;
            line >> countType >> type;
            if (!typeOf(countType, property.countType)) return fmt::format("'{}' is no known type", countType);
        }
        if (!typeOf(type, property.type)) return fmt::format("'{}' is no known type", type);
        line >> property.name;
        if (property.name.empty()) return "a property has no name";
        header.elements.back().properties.push_back(property);
    }
    return {};
}

}  // namespace

Result<PlyHeader> plyHeaderFromBytes(std::string_view bytes) {
    if (bytes.substr(0, 3) != "ply") return Error{"mesh.format", "The file does not start with 'ply'."};
    PlyHeader header;
    std::size_t at = 0;
    for (int number = 1;; ++number) {
        const std::size_t end = bytes.find('\n', at);
        if (end == std::string_view::npos || number > 10000) return Error{"mesh.format", "The header has no 'end_header'."};
        std::string text(bytes.substr(at, std::min<std::size_t>(end - at, 4096)));
        if (!text.empty() && text.back() == '\r') text.pop_back();
        at = end + 1;
        if (text == "end_header") break;
        std::istringstream line(text);
        line.exceptions(std::ios::badbit);  // no memory is no end of the line
        if (const std::string wrong = readLine(line, header); !wrong.empty()) return Error{"mesh.format", fmt::format("Line {}: {}.", number, wrong)};
    }
    header.bodyStart = at;
    const double left = double(bytes.size() - at);
    double needed = 0;
    for (const PlyElement& element : header.elements) {
        double row = 0;
        for (const PlyProperty& p : element.properties) row += header.coding == PlyCoding::text ? 2 : double(byteSize(p.list ? p.countType : p.type));
        needed += row * double(element.count);
        if (element.properties.empty() && element.count > 0) return Error{"mesh.format", fmt::format("The element '{}' has no properties.", element.name)};
    }
    if (needed > left + 2) return Error{"mesh.format", "The header promises more elements than the file holds."};
    return header;
}

}  // namespace seedloom
