#pragma once
// The header of a PLY file.
#include "geometry/Result.h"

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace seedloom {

enum class PlyType : std::uint8_t { int8, uint8, int16, uint16, int32, uint32, float32, float64 };
std::size_t byteSize(PlyType type);

struct PlyProperty {
    std::string name;
    PlyType type = PlyType::float32;
    bool list = false;
    PlyType countType = PlyType::uint8;
};

struct PlyElement {
    std::string name;
    std::uint64_t count = 0;
    std::vector<PlyProperty> properties;
};

enum class PlyCoding : std::uint8_t { text, littleEndian, bigEndian };

struct PlyHeader {
    PlyCoding coding = PlyCoding::text;
    std::vector<PlyElement> elements;
    std::size_t bodyStart = 0;
};

/// Reads the header; counts that the rest of the file can't hold are an error, before anything is allocated.
Result<PlyHeader> plyHeaderFromBytes(std::string_view bytes);

}  // namespace seedloom
