#include "vary/ContactSheet.h"

#include "files/FileIo.h"
#include "files/HtmlText.h"
#include "files/PictureFile.h"
#include "render/Lettering.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

namespace seedloom {

namespace {

constexpr int kAcross = 8, kCellWide = 192, kCellHigh = 144, kLabelHigh = 44, kSheetGap = 12, kEdge = 24, kHead = 64;
constexpr Colour kSheetPaper{0xF3, 0xEE, 0xE4, 255}, kSheetCard{0xFC, 0xFA, 0xF5, 255}, kSheetInk{0x23, 0x2B, 0x36, 255}, kSheetFaint{0x5F, 0x61, 0x60, 255},
    kSheetWarning{0xB3, 0x40, 0x2E, 255};

bool differs(const std::string& control, const std::vector<VaryRow>& rows) {
    const auto valueOf = [&](const VaryRow& row) {
        const auto it = row.values.find(control);
        return it == row.values.end() ? Json() : it->second;
    };
    return std::any_of(rows.begin(), rows.end(), [&](const VaryRow& row) { return valueOf(row) != valueOf(rows.front()); });
}

/// The controls that are not the same in all rows.
std::vector<const Control*> differing(const Loom& loom, const std::vector<VaryRow>& rows) {
    std::vector<const Control*> out;
    for (const Control& control : loom.controls)
        if (differs(control.id, rows)) out.push_back(&control);
    return out;
}

std::string textOfRow(const std::vector<const Control*>& controls, const VaryRow& row) {
    std::vector<std::string> parts;
    if (!row.variation.preset.empty()) parts.push_back(row.variation.preset);
    for (const Control* control : controls)
        if (const auto it = row.values.find(control->id); it != row.values.end()) parts.push_back(shownValue(*control, it->second));
    return parts.empty() ? fmt::format("{}", row.number) : fmt::format("{}", fmt::join(parts, " · "));
}

Picture pictureIn(const VaryFolder& folder, const std::string& name) {
    const auto bytes = name.empty() ? Result<std::string>(Error{}) : readFile(folder / name);
    const auto read = bytes ? pictureFromBytes(*bytes) : Result<PixelPicture>(Error{});
    Picture out;
    if (!read) return out;
    out.width = read->width, out.height = read->height;
    for (const DeepPixel& p : read->pixels)
        out.pixels.push_back({std::uint8_t(p[0] >> 8), std::uint8_t(p[1] >> 8), std::uint8_t(p[2] >> 8), std::uint8_t(p[3] >> 8)});
    return out;
}

constexpr const char* kContactStyle = R"(
:root { color-scheme: light dark; --paper: #f3eee4; --card: #fcfaf5; --ink: #232b36; --faint: #5f6160; --line: #cfc6b6; --warn: #b3402e; }
@media (prefers-color-scheme: dark) { :root { --paper: #1b222c; --card: #242d39; --ink: #ece6d9; --faint: #aeb3b5; --line: #3d4957; --warn: #e58a76; } }
body { margin: 0; padding: 24px; background: var(--paper); color: var(--ink); font: 14px/1.4 Inter, "Noto Sans", "Liberation Sans", sans-serif; }
main { display: grid; grid-template-columns: repeat(auto-fill, minmax(192px, 1fr)); gap: 12px; }
figure { margin: 0; background: var(--card); border: 1px solid var(--line); border-radius: 6px; overflow: hidden; }
img { display: block; width: 100%; height: auto; background: #f0eadd; } figcaption { padding: 6px 8px; }
.faint { color: var(--faint); } .warn { color: var(--warn); }
)";

}  // namespace

std::string differingText(const Loom& loom, const std::vector<VaryRow>& rows, const VaryRow& row) { return textOfRow(differing(loom, rows), row); }

Picture contactPicture(const Loom& loom, const VaryFolder& folder, const std::vector<VaryRow>& rows) {
    const int cells = int(std::min(rows.size(), kMostOnSheet)), lines = std::max(1, (cells + kAcross - 1) / kAcross);
    const int cellTall = kCellHigh + kLabelHigh, wide = 2 * kEdge + kAcross * (kCellWide + kSheetGap) - kSheetGap;
    Picture out{wide, kEdge + kHead + lines * (cellTall + kSheetGap) + kEdge, {}};
    out.pixels.assign(std::size_t(out.width) * std::size_t(out.height), kSheetPaper);
    Lettering letters;
    using Face = Lettering::Face;
    letters.write(out, kEdge, kEdge + 24, loom.name, Face::semibold, 24, kSheetInk);
    const std::size_t failed = std::size_t(std::count_if(rows.begin(), rows.end(), [](const VaryRow& row) { return !row.ok; }));
    std::string told = fmt::format("{} variations", rows.size());
    if (failed > 0) told += fmt::format(", {} failed", failed);
    if (rows.size() > kMostOnSheet) told += fmt::format("; the first {} are shown", kMostOnSheet);
    letters.write(out, kEdge, kEdge + 48, told, Face::regular, 14, kSheetFaint);
    const auto controls = differing(loom, rows);
    for (int i = 0; i < cells; ++i) {
        const VaryRow& row = rows[std::size_t(i)];
        const int x = kEdge + i % kAcross * (kCellWide + kSheetGap), y = kEdge + kHead + i / kAcross * (cellTall + kSheetGap);
        fillRect(out, x, y, kCellWide, cellTall, kSheetCard);
        putPicture(out, pictureIn(folder, row.picture), x, y);
        const auto line = [&](const std::string& text, int at, Face face, Colour colour) {
            const auto broken = letters.broken(text, face, 13, kCellWide - 12, 1);
            if (!broken.empty()) letters.write(out, x + 6, y + kCellHigh + at, broken.front(), face, 13, colour);
        };
        line(textOfRow(controls, row), 17, Face::semibold, kSheetInk);
        if (row.problem.empty()) line(fmt::format("{} · {} triangles", row.number, row.triangles), 35, Face::regular, kSheetFaint);
        else line(row.problem, 35, Face::regular, kSheetWarning);
    }
    return out;
}

std::string contactHtml(const Loom& loom, const std::vector<VaryRow>& rows) {
    std::string out = fmt::format(
        "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\"><title>{}</title>"
        "<style>{}</style></head><body><h1>{}</h1><p class=\"faint\">{} variations; the figures stand in index.csv.</p><main>\n",
        htmlText(loom.name), kContactStyle, htmlText(loom.name), rows.size());
    const auto controls = differing(loom, rows);
    for (const VaryRow& row : rows) {
        const std::string label = htmlText(textOfRow(controls, row));
        out += "<figure>";
        if (!row.picture.empty())
            out += fmt::format(R"(<img loading="lazy" width="{}" height="{}" src="{}" alt="{}">)", kCellWide, kCellHigh, htmlText(row.picture), label);
        out += fmt::format("<figcaption>{}<br>", label);
        out += row.problem.empty() ? fmt::format(R"(<span class="faint">{} · {} triangles</span>)", row.number, row.triangles)
                                   : fmt::format(R"(<span class="warn">{} · {}</span>)", row.number, htmlText(row.problem));
        out += "</figcaption></figure>\n";
    }
    return out + "</main></body></html>\n";
}

std::optional<Error> writeSummaries(const Loom& loom, const VaryFolder& folder, const std::vector<VaryRow>& rows) {
    if (auto error = writeFileAtomically(folder / "index.csv", indexCsv(loom, rows))) return error;
    if (auto error = writeFileAtomically(folder / "contact.html", contactHtml(loom, rows))) return error;
    return writePng(contactPicture(loom, folder, rows), folder / "contact.png");
}

}  // namespace seedloom
