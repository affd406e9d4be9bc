#include "cli/VaryCall.h"

#include "cli/Commands.h"
#include "cli/Ending.h"
#include "files/FileIo.h"
#include "formats/Pack.h"
#include "meshes/MeshFile.h"
#include "vary/ContactSheet.h"
#include "vary/VariedInputs.h"
#include "vary/VaryRun.h"

#include <fmt/format.h>

#include <algorithm>
#include <ostream>

namespace seedloom {

namespace {

/// A word as a shell takes it for one.
std::string quoted(const std::string& text) {
    std::string out = "'";
    for (const char c : text) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
    return out + "'";
}

std::string valueText(const Json& value) {
    if (value.is_string()) return value.get<std::string>();
    if (!value.is_array()) return value.dump();
    std::string out;
    for (const Json& part : value) out += (out.empty() ? "" : ",") + part.dump();
    return out;
}

/// One call.
class Varying {
public:
    Varying(const VaryCallOptions& options, std::ostream& out, std::ostream& err, std::atomic<bool>& stop)
        : options_(options), out_(out), err_(err), stop_(stop) {}

    int run() {
        checkCall();
        auto read = fitSubjectFrom(options_.file);
        if (!read) throw Ending{kUnreadable, read.error().text};
        subject_ = withInputsAsControls(std::move(*read));
        if (options_.gather) return gather();
        std::vector<Variation> variations = planned();
        if (isPack(options_.file)) letReadFiles(subject_, variations, std::filesystem::absolute(options_.file).parent_path());
        const std::string ending = options_.format == "none" ? std::string() : "." + options_.format;
        checkNames(variations);
        if (options_.list) return list(variations);
        auto folder = VaryFolder::open(options_.outDir);
        if (!folder) throw Ending{kUnreadable, folder.error().text};
        if (options_.row == 0 && !options_.resume && !folder->numbers().empty())
            throw Ending{kWrongCall, fmt::format("'{}' holds variations already. Go on there with --resume, or take another folder.", options_.outDir)};
        VaryOptions making;
        making.jobs = options_.jobs, making.ending = ending, making.pattern = options_.pattern, making.pictures = !options_.noPictures;
        making.cancel = &stop_;
        if (!options_.json) making.onRow = [&](const VaryRow& row) { tellRow(row); };
        const VaryOutcome outcome = vary(subject_, variations, std::max<std::size_t>(options_.row, 1), *folder, making);
        if (outcome.problem) throw Ending{kUnreadable, outcome.problem->text};
        if (stop_) throw Ending{kStopped, fmt::format("stopped after {} of {}. --resume goes on from there.", outcome.rows.size(), variations.size())};
        if (options_.row > 0) return ended(outcome.rows, outcome);
        // Rows that others make just now are theirs; the index holds what is done.
        return ended(writeIndex(*folder, variations.size()), outcome);
    }

private:
    void checkCall() const {
        const int plans = int(options_.count > 0) + int(!options_.table.empty()) + int(!options_.grid.empty()) + int(options_.row > 0) + int(options_.gather);
        if (plans != 1)
            throw Ending{kWrongCall, "say what varies with one of --count N, --table FILE.csv and --grid id=from:to:steps (or --gather what is done)."};
        if (options_.outDir.empty()) throw Ending{kWrongCall, "name the folder for the variations with --out-dir DIR."};
        const auto& endings = writableEndings();
        if (options_.format != "none" && std::find(endings.begin(), endings.end(), "." + options_.format) == endings.end())
            throw Ending{kWrongCall, fmt::format("--format '{}' is unknown. There are glb, gltf, obj, ply, stl, and none.", options_.format)};
        if (options_.jobs < 0) throw Ending{kWrongCall, "--jobs must be 0 (automatic) or more."};
    }

    template <class T> T must(Result<T> result, int status = kWrongCall) const {
        if (!result) throw Ending{status, result.error().text};
        return std::move(*result);
    }

    std::vector<Variation> planned() const {
        const Loom& loom = *subject_.loom;
        if (options_.row > 0) return {single()};
        if (options_.count > 0) return must(variationsByChance(loom, options_.count, unsigned(options_.seed)));
        if (!options_.grid.empty()) {
            std::vector<VaryAxis> axes;
            for (const std::string& text : options_.grid) axes.push_back(must(varyAxis(loom, text)));
            return must(variationsOfGrid(axes));
        }
        const auto table = readFile(options_.table, std::size_t(64) << 20);
        if (!table) throw Ending{kUnreadable, table.error().text};
        return must(variationsFromTable(loom, *table), kUnreadable);
    }

    Variation single() const {
        Variation out{options_.preset, {}};
        for (const std::string& text : options_.set) {
            const auto at = text.find('=');
            const Control* control = at == std::string::npos ? nullptr : subject_.loom->control(text.substr(0, at));
            if (!control) throw Ending{kWrongCall, fmt::format("--set {}: write it as control=value, of a control that there is.", text)};
            out.given[control->id] = must(controlValueFromText(*control, text.substr(at + 1)));
        }
        if (!out.preset.empty() && !subject_.loom->preset(out.preset)) throw Ending{kWrongCall, fmt::format("There is no preset '{}'.", out.preset)};
        return out;
    }

    void checkNames(const std::vector<Variation>& variations) const {
        if (variations.empty()) throw Ending{kWrongCall, "there is nothing to vary: no row at all."};
        ControlValues values;
        for (const Control& control : subject_.loom->controls) values[control.id] = Json();
        if (const auto name = variationName(options_.pattern, *subject_.loom, 1, variations.front(), values); !name)
            throw Ending{kWrongCall, name.error().text};
    }

    /// One line each, whole in itself: for a shell on any machine that sees the same folders.
    int list(const std::vector<Variation>& variations) const {
        for (std::size_t i = 0; i < variations.size(); ++i) {
            out_ << "seedloom-cli vary " << quoted(std::filesystem::absolute(options_.file).string()) << " --out-dir "
                 << quoted(std::filesystem::absolute(options_.outDir).string()) << " --row " << i + 1 << " --jobs 1 --format " << options_.format
                 << " --pattern " << quoted(options_.pattern);
            if (options_.noPictures) out_ << " --no-pictures";
            if (!variations[i].preset.empty()) out_ << " --preset " << quoted(variations[i].preset);
            for (const auto& [control, value] : variations[i].given) out_ << " --set " << quoted(control + "=" + valueText(value));
            out_ << '\n';
        }
        return kDone;
    }

    int gather() {
        auto folder = VaryFolder::open(options_.outDir);
        if (!folder) throw Ending{kUnreadable, folder.error().text};
        const auto numbers = folder->numbers();
        if (numbers.empty()) throw Ending{kUnreadable, fmt::format("There are no variations in '{}'.", options_.outDir)};
        return ended(writeIndex(*folder, numbers.back()), {});
    }

    /// Of all rows up to this number that are done.
    std::vector<VaryRow> writeIndex(const VaryFolder& folder, std::size_t last) const {
        std::vector<VaryRow> rows;
        for (const std::size_t number : folder.numbers())
            if (number <= last)
                if (auto row = folder.done(number)) rows.push_back(std::move(*row));
        if (const auto error = writeSummaries(*subject_.loom, folder, rows)) throw Ending{kUnreadable, error->text};
        return rows;
    }

    void tellRow(const VaryRow& row) const {
        if (row.problem.empty()) out_ << fmt::format("{}: {}\n", row.number, row.file.empty() ? "built" : row.file);
        else err_ << fmt::format("seedloom-cli: {}: variation {}: {}\n", options_.file, row.number, row.problem);
    }

    int ended(const std::vector<VaryRow>& rows, const VaryOutcome& outcome) const {
        const auto failed = std::size_t(std::count_if(rows.begin(), rows.end(), [](const VaryRow& row) { return !row.ok; }));
        if (options_.json) {
            Json list = Json::array();
            for (const VaryRow& row : rows) list.push_back(rowJson(row));
            out_ << Json{{"ok", failed == 0},    {"file", options_.file},          {"folder", options_.outDir}, {"made", outcome.made},
                         {"kept", outcome.kept}, {"elsewhere", outcome.elsewhere}, {"failed", failed},          {"rows", std::move(list)}}
                        .dump(2, ' ', false, Json::error_handler_t::replace)
                 << '\n';
        } else if (options_.row == 0) {
            out_ << fmt::format("{}: {} variations, {} made, {} kept, {} failed\n", options_.outDir, rows.size(), outcome.made, outcome.kept, failed);
        }
        return failed > 0 ? kNodeFailed : kDone;
    }

    const VaryCallOptions& options_;
    std::ostream &out_, &err_;
    std::atomic<bool>& stop_;
    FitSubject subject_;
};

}  // namespace

int varyCall(const VaryCallOptions& options, std::ostream& out, std::ostream& err, std::atomic<bool>& stop) { return Varying(options, out, err, stop).run(); }

}  // namespace seedloom
