#pragma once
// One page that shows an asset: what it is, what each control does, its presets and figures. Nobody has to write it.
#include "formats/Pack.h"
#include "publish/FitCheck.h"
#include "render/Picture.h"

namespace seedloom {

/// Pixels of the small pictures.
inline constexpr int kSheetPictureWide = 264, kSheetPictureHigh = 176;

/// The model at one setting.
struct SheetEntry {
    std::string title;                       ///< the value, or a preset's name
    std::shared_ptr<const Picture> picture;  ///< null where there is none
    std::uint64_t triangles = 0;
    std::string problem;  ///< why there is no model; empty where there is one
};

struct SheetControl {
    std::string label, section, help, range;  ///< range: "0.3 to 2 m", the choices, or its type
    std::vector<SheetEntry> entries;          ///< at its low end, default and high end; its choices; no and yes
};

struct AssetSheet {
    AssetAbout about;
    SheetEntry main;   ///< at its defaults, larger
    std::string size;  ///< of that, in metres
    std::uint64_t points = 0, faces = 0, copies = 0;
    bool closed = false;
    std::vector<SheetEntry> presets;
    std::vector<SheetControl> controls;
    std::vector<std::string> inputs;
    std::uint64_t fewest = 0, most = 0;  ///< triangles over all that was built
};

struct SheetOptions {
    int threads = 0;  ///< settings at the same time; 0: as many as the machine has
    const std::atomic<bool>* cancel = nullptr;
    /// Called from any thread, one at a time, as settings are done; must be quick.
    std::function<void(std::size_t done, std::size_t all)> onEntry;
};

/// Builds the asset at its defaults, its presets, and each control at its low end, default and high end (slider or limits; each choice, at most six; no and
/// yes), and takes pictures from one place each: what is larger looks larger. The same sheet for any number of threads. Errors: `sheet.build` where it gives
/// nothing at its defaults, `sheet.cancelled`.
Result<AssetSheet> assetSheet(const FitSubject& subject, const SheetOptions& options = {});

/// What stands beside the large picture: what it is called, and what it says. Nothing that is empty.
std::vector<std::pair<std::string, std::string>> sheetFacts(const AssetSheet& sheet);

/// One HTML page with everything in it, for light and dark screens, and for paper.
std::string sheetHtml(const AssetSheet& sheet);
/// The same as one picture, 1280 pixels wide.
Picture sheetPicture(const AssetSheet& sheet);

}  // namespace seedloom
