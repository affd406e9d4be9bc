// The sheet of an asset as one picture.
#include "publish/Sheet.h"
#include "render/Lettering.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace seedloom {

namespace {

using Face = Lettering::Face;

constexpr Colour kPaperColour{0xF3, 0xEE, 0xE4, 255}, kCardColour{0xFC, 0xFA, 0xF5, 255}, kInkColour{0x23, 0x2B, 0x36, 255},
    kFaintColour{0x5F, 0x61, 0x60, 255}, kLineColour{0xCF, 0xC6, 0xB6, 255}, kWarnColour{0x8F, 0x60, 0x0B, 255};
constexpr int kPageWide = 1280, kMarginWide = 40, kCardPad = 8, kGapWide = 16, kTitleHigh = 22, kNoteHigh = 20, kHighestPage = 30'000;

/// Lays the page out from the top; where it has no picture yet, it only measures.
class Page {
public:
    Page(const AssetSheet& sheet, Lettering& letters, Picture* to) : sheet_(sheet), letters_(letters), to_(to) {}

    /// The height that it needs.
    int lay() {
        head();
        if (!sheet_.presets.empty()) {
            heading("Presets");
            row(sheet_.presets);
        }
        if (!sheet_.controls.empty()) heading("Controls");
        for (const SheetControl& control : sheet_.controls) {
            y_ += 14;
            const int wide = text(kMarginWide, y_ + 16, control.label, Face::semibold, 16, kInkColour);
            text(kMarginWide + wide + 12, y_ + 16, (control.section.empty() ? std::string() : control.section + " · ") + control.range, Face::regular, 14,
                 kFaintColour);
            y_ += 26;
            paragraph(kMarginWide, kPageWide - 2 * kMarginWide, control.help, kFaintColour, 2);
            row(control.entries);
        }
        return y_ + kMarginWide;
    }

private:
    int text(int x, int baseline, const std::string& words, Face face, int pixels, Colour colour) {
        if (to_) letters_.write(*to_, x, baseline, words, face, pixels, colour);
        return letters_.width(words, face, pixels);
    }
    void paragraph(int x, int wide, const std::string& words, Colour colour, int most) {
        for (const std::string& line : letters_.broken(words, Face::regular, 14, wide, most)) {
            text(x, y_ + 14, line, Face::regular, 14, colour);
            y_ += kNoteHigh;
        }
    }
    void rule(int x, int y, int wide, int high, Colour colour) {
        if (to_) fillRect(*to_, x, y, wide, high, colour);
    }

    void heading(const std::string& words) {
        y_ += 30;
        text(kMarginWide, y_ + 18, words, Face::semibold, 20, kInkColour);
        y_ += 28;
        rule(kMarginWide, y_, kPageWide - 2 * kMarginWide, 2, kLineColour);
        y_ += 10;
    }

    void head() {
        y_ = kMarginWide;
        const int top = y_, pictureWide = sheet_.main.picture ? sheet_.main.picture->width : 0,
                  pictureHigh = sheet_.main.picture ? sheet_.main.picture->height : 0;
        if (sheet_.main.picture) picture(*sheet_.main.picture, kMarginWide, top);
        const int x = kMarginWide + pictureWide + 28, wide = kPageWide - kMarginWide - x;
        for (const std::string& line : letters_.broken(sheet_.about.name, Face::semibold, 30, wide, 2)) {
            text(x, y_ + 30, line, Face::semibold, 30, kInkColour);
            y_ += 38;
        }
        y_ += 4;
        paragraph(x, wide, sheet_.about.summary, kInkColour, 5);
        y_ += 10;
        auto facts = sheetFacts(sheet_);
        if (!sheet_.about.tags.empty()) facts.emplace_back("Tags", fmt::format("{}", fmt::join(sheet_.about.tags, ", ")));
        for (const auto& [what, value] : facts) {
            text(x, y_ + 14, what, Face::regular, 14, kFaintColour);
            for (const std::string& line : letters_.broken(value, Face::regular, 14, wide - 90, 2)) {
                text(x + 90, y_ + 14, line, Face::regular, 14, kInkColour);
                y_ += kNoteHigh;
            }
        }
        y_ = std::max(y_, top + pictureHigh);
    }

    void picture(const Picture& shown, int x, int y) {
        rule(x - 1, y - 1, shown.width + 2, shown.height + 2, kLineColour);
        if (to_) putPicture(*to_, shown, x, y);
    }

    void row(const std::vector<SheetEntry>& entries) {
        int x = kMarginWide, high = 0;
        y_ += 6;
        for (const SheetEntry& entry : entries) {
            constexpr int wide = kSheetPictureWide + 2 * kCardPad, tall = kSheetPictureHigh + 2 * kCardPad + kTitleHigh + kNoteHigh;
            if (x + wide > kPageWide - kMarginWide) x = kMarginWide, y_ += tall + kGapWide;
            card(entry, x, y_, wide, tall);
            x += wide + kGapWide;
            high = tall;
        }
        y_ += high + kGapWide;
    }

    void card(const SheetEntry& entry, int x, int y, int wide, int tall) {
        rule(x - 1, y - 1, wide + 2, tall + 2, kLineColour);
        rule(x, y, wide, tall, kCardColour);
        if (entry.picture && to_) putPicture(*to_, *entry.picture, x + kCardPad, y + kCardPad);
        const int inner = wide - 2 * kCardPad, below = y + kCardPad + kSheetPictureHigh;
        const auto line = [&](const std::string& words, int baseline, Face face, Colour colour) {
            const auto shown = letters_.broken(words, face, 14, inner, 1);
            if (!shown.empty()) text(x + kCardPad, baseline, shown.front(), face, 14, colour);
        };
        line(entry.title, below + 18, Face::semibold, kInkColour);
        if (entry.problem.empty()) line(fmt::format("{} triangles", entry.triangles), below + 18 + kNoteHigh, Face::regular, kFaintColour);
        else line(entry.problem, below + 18 + kNoteHigh, Face::regular, kWarnColour);
    }

    const AssetSheet& sheet_;
    Lettering& letters_;
    Picture* to_;
    int y_ = 0;
};

}  // namespace

Picture sheetPicture(const AssetSheet& sheet) {
    Lettering letters;
    const int high = std::min(Page(sheet, letters, nullptr).lay(), kHighestPage);
    Picture out{kPageWide, high, std::vector<Colour>(std::size_t(kPageWide) * std::size_t(high), kPaperColour)};
    Page(sheet, letters, &out).lay();
    return out;
}

}  // namespace seedloom
