#pragma once
// What became of one variation, and the index of all of them.
#include "geometry/Digest.h"
#include "vary/Variations.h"

namespace seedloom {

struct VaryRow {
    std::size_t number = 0;  ///< from 1
    Variation variation;
    ControlValues values;  ///< of all controls, as they were built
    bool ok = false;       ///< nothing failed; it may have been warned of all the same

    std::string problem;  ///< the first thing that was told against it, with its node; empty where nothing was
    std::string file;     ///< the model's, in the folder of the run; empty where none was written
    std::string picture;  ///< a small one's
    std::string digest;   ///< of the model
    std::string key;      ///< of all that it was made from: the same key, the same row
    std::uint64_t points = 0, faces = 0, triangles = 0;
    std::array<double, 3> size{};  ///< metres
    double volume = 0;             ///< m³; of closed models
    bool closed = false;
    double ms = 0;  ///< what its steps take where nothing is kept, one after the other
    bool operator==(const VaryRow&) const = default;
};

Json rowJson(const VaryRow& row);
/// Nothing where it is no such record.
std::optional<VaryRow> rowFromJson(const Json& json);

/// `index.csv`: n, file, one column a control in the loom's order, then ok, problem, faces, triangles, points, size_x, size_y, size_z, volume, closed, ms,
/// digest. Numbers have all their digits.
std::string indexCsv(const Loom& loom, const std::vector<VaryRow>& rows);

/// A value as people read it: "1.27 m", or with the control's name where it has no unit: "Kind oak", "Open yes"; a file
/// by its name without folder and ending.
std::string shownValue(const Control& control, const Json& value);

}  // namespace seedloom
