// The sheet of an asset as a page.
#include "files/HtmlText.h"
#include "meshes/Base64.h"
#include "publish/Sheet.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace seedloom {

namespace {

/// Colours follow the reader's screen, and paper gets those of a light one.
constexpr const char* kStyle = R"(
:root { color-scheme: light dark; --paper: #f3eee4; --card: #fcfaf5; --ink: #232b36; --faint: #5f6160; --line: #cfc6b6; --accent: #b3402e; --warn: #8f600b; }
@media (prefers-color-scheme: dark) {
  :root { --paper: #1b222c; --card: #242d39; --ink: #ece6d9; --faint: #aeb3b5; --line: #3d4957; --accent: #e58a76; --warn: #e0b260; }
}
@media print { :root { --paper: #fff; --card: #fff; --ink: #000; --faint: #444; --line: #bbb; } figure, header { break-inside: avoid; } }
* { box-sizing: border-box; }
body { margin: 0; background: var(--paper); color: var(--ink); font: 15px/1.45 Inter, "Noto Sans", "Liberation Sans", sans-serif; }
main { max-width: 1080px; margin: 0 auto; padding: 32px 24px 48px; }
header { display: grid; grid-template-columns: minmax(280px, 640px) 1fr; gap: 28px; align-items: start; }
h1 { margin: 0 0 4px; font-size: 30px; } h2 { margin: 36px 0 8px; font-size: 19px; border-bottom: 2px solid var(--line); padding-bottom: 4px; }
h3 { margin: 22px 0 0; font-size: 16px; } p { margin: 6px 0; } .faint { color: var(--faint); } .warn { color: var(--warn); }
img { display: block; width: 100%; height: auto; border-radius: 6px; border: 1px solid var(--line); background: #f0eadd; }
dl { display: grid; grid-template-columns: auto 1fr; gap: 2px 14px; margin: 14px 0; } dt { color: var(--faint); }
dd { margin: 0; font-variant-numeric: tabular-nums; }
.row { display: flex; flex-wrap: wrap; gap: 14px; margin-top: 10px; } figure { margin: 0; width: 248px; background: var(--card); border: 1px solid var(--line);
border-radius: 6px; padding: 8px; } figcaption { padding-top: 6px; }
.tags span { border: 1px solid var(--line); border-radius: 10px; padding: 1px 9px; margin-right: 6px; }
footer { margin-top: 40px; color: var(--faint); font-size: 13px; }
@media (max-width: 760px) { header { grid-template-columns: 1fr; } }
)";

std::string imageOf(const SheetEntry& entry, const std::string& about) {
    const auto png = entry.picture ? pngBytes(*entry.picture) : Result<std::string>(Error{});
    if (!png) return {};
    return fmt::format(R"(<img src="data:image/png;base64,{}" width="{}" height="{}" alt="{}">)", base64Encoded(*png), entry.picture->width,
                       entry.picture->height, htmlText(about));
}

std::string figureOf(const SheetEntry& entry, const std::string& about) {
    const std::string below = entry.problem.empty() ? fmt::format(R"(<span class="faint">{} triangles</span>)", entry.triangles)
                                                    : fmt::format(R"(<span class="warn">{}</span>)", htmlText(entry.problem));
    return fmt::format("<figure>{}<figcaption>{}<br>{}</figcaption></figure>\n", imageOf(entry, about + ": " + entry.title), htmlText(entry.title), below);
}

std::string headOf(const AssetSheet& sheet) {
    std::string out = fmt::format("<header>{}<div><h1>{}</h1>", imageOf(sheet.main, sheet.about.name), htmlText(sheet.about.name));
    if (!sheet.about.summary.empty()) out += fmt::format("<p>{}</p>", htmlText(sheet.about.summary));
    out += "<dl>";
    for (const auto& [what, value] : sheetFacts(sheet)) out += fmt::format("<dt>{}</dt><dd>{}</dd>", what, htmlText(value));
    out += "</dl>";
    if (!sheet.about.tags.empty()) {
        out += R"(<p class="tags">)";
        for (const std::string& tag : sheet.about.tags) out += fmt::format("<span>{}</span>", htmlText(tag));
        out += "</p>";
    }
    return out + "</div></header>\n";
}

}  // namespace

std::string sheetHtml(const AssetSheet& sheet) {
    std::string out = fmt::format(
        "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width\">"
        "<title>{} {}</title><style>{}</style></head><body><main>\n",
        htmlText(sheet.about.name), htmlText(sheet.about.version), kStyle);
    out += headOf(sheet);
    if (!sheet.presets.empty()) {
        out += "<h2>Presets</h2><div class=\"row\">\n";
        for (const SheetEntry& preset : sheet.presets) out += figureOf(preset, sheet.about.name);
        out += "</div>\n";
    }
    if (!sheet.controls.empty()) out += "<h2>Controls</h2>\n";
    std::string section;
    for (const SheetControl& control : sheet.controls) {
        out += fmt::format("<h3>{} <span class=\"faint\">{}{}</span></h3>", htmlText(control.label),
                           htmlText(control.section.empty() ? std::string() : control.section + " · "), htmlText(control.range));
        if (!control.help.empty()) out += fmt::format("<p class=\"faint\">{}</p>", htmlText(control.help));
        out += "<div class=\"row\">\n";
        for (const SheetEntry& entry : control.entries) out += figureOf(entry, control.label);
        out += "</div>\n";
    }
    return out + "<footer>Pictures of one row are taken from one place. Made by Seed Loom.</footer></main></body></html>\n";
}

}  // namespace seedloom
