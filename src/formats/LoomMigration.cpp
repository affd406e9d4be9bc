#include "formats/LoomMigration.h"

#include "formats/LoomFile.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

using Migration = void (*)(Json& document);

// kSteps[i] turns format i + 1 into format i + 2. Empty while there is one format only.
constexpr std::array<Migration, kLoomFormat - 1> kSteps{};

}  // namespace

std::optional<Error> migrateLoom(Json& document) {
    const auto format = document["seedloom"].get<std::int64_t>();
    if (format > kLoomFormat)
        return Error{"loom.version", fmt::format("The file has format {}, and this version reads up to {}. Update Seed Loom to open it.", format, kLoomFormat)};
    if (format < 1) return Error{"loom.version", fmt::format("There is no format {}.", format)};
    for (std::size_t step = static_cast<std::size_t>(format) - 1; step < kSteps.size(); ++step) kSteps[step](document);
    document["seedloom"] = kLoomFormat;
    return {};
}

}  // namespace seedloom
