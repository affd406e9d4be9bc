#include "cli/SheetCall.h"

#include "cli/Commands.h"
#include "cli/Ending.h"
#include "files/FileIo.h"
#include "publish/Sheet.h"

#include <fmt/format.h>

#include <ostream>

namespace seedloom {

namespace {

AssetSheet sheetOf(const FitSubject& subject, int threads, std::atomic<bool>& stop) {
    auto sheet = assetSheet(subject, {.threads = threads, .cancel = &stop, .onEntry = {}});
    if (sheet) return std::move(*sheet);
    throw Ending{sheet.error().code == "sheet.cancelled" ? kStopped : kNodeFailed, sheet.error().text};
}

std::string pictureBytes(const AssetSheet& sheet) {
    auto bytes = pngBytes(sheetPicture(sheet));
    if (!bytes) throw Ending{kUnreadable, bytes.error().text};
    return std::move(*bytes);
}

}  // namespace

std::map<std::string, std::string> sheetFiles(const FitSubject& subject, int threads, std::atomic<bool>& stop) {
    const AssetSheet sheet = sheetOf(subject, threads, stop);
    return {{"sheet.html", sheetHtml(sheet)}, {"sheet.png", pictureBytes(sheet)}};
}

int sheetCall(const SheetCallOptions& options, std::ostream& out, std::atomic<bool>& stop) {
    const std::string ending = std::filesystem::path(options.out).extension().string();
    if (ending != ".html" && ending != ".png") throw Ending{kWrongCall, "name the sheet to write with -o NAME.html or -o NAME.png."};
    if (options.threads < 0) throw Ending{kWrongCall, "--threads must be 0 (automatic) or more."};
    const auto read = fitSubjectFrom(options.file);
    if (!read) throw Ending{kUnreadable, read.error().text};
    const AssetSheet sheet = sheetOf(*read, options.threads, stop);
    if (const auto error = writeFileAtomically(options.out, ending == ".html" ? sheetHtml(sheet) : pictureBytes(sheet))) throw Ending{kUnreadable, error->text};
    std::size_t failed = 0;
    const auto count = [&](const std::vector<SheetEntry>& entries) {
        for (const SheetEntry& entry : entries) failed += !entry.problem.empty();
    };
    count(sheet.presets);
    for (const SheetControl& control : sheet.controls) count(control.entries);
    if (options.json)
        out << Json{{"ok", true},      {"file", options.file}, {"output", options.out}, {"controls", sheet.controls.size()}, {"presets", sheet.presets.size()},
                    {"failed", failed}}
                   .dump(2)
            << '\n';
    else
        out << fmt::format("{}: {} controls and {} presets on {}{}\n", options.file, sheet.controls.size(), sheet.presets.size(), options.out,
                           failed > 0 ? fmt::format("; {} settings give no model", failed) : std::string());
    return kDone;
}

}  // namespace seedloom
