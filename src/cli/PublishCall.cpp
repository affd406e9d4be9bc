#include "cli/PublishCall.h"

#include "cli/Commands.h"
#include "cli/Ending.h"
#include "cli/SheetCall.h"
#include "files/FileIo.h"
#include "publish/Publish.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <ostream>
#include <utility>

namespace seedloom {

namespace {

const char* stateText(const Verdict& v) {
    if (v.state == Verdict::State::failed) return "failed";
    if (v.state == Verdict::State::unsound) return "unsound";
    return v.heavy ? "too many triangles" : v.slow ? "slow" : "sound";
}

const char* kindText(Trial::Kind kind) {
    switch (kind) {
        case Trial::Kind::plain: return "defaults";
        case Trial::Kind::preset: return "preset";
        case Trial::Kind::end: return "end";
        case Trial::Kind::middle: return "middle";
        case Trial::Kind::pair: return "pair";
        case Trial::Kind::random: return "random";
    }
    return "";
}

/// One publish call: what was checked, and how it is told.
class Publishing {
public:
    Publishing(const PublishOptions& options, std::ostream& out, std::ostream& err, std::atomic<bool>& stop)
        : options_(options), out_(out), err_(err), stop_(stop) {}

    int run() {
        auto read = fitSubjectFrom(options_.file);
        if (!read) throw Ending{kUnreadable, read.error().text};
        subject_ = std::move(*read);
        if (!options_.checkOnly)
            if (const auto problem = publishProblem(*subject_.loom)) throw Ending{kUnreadable, problem->text};
        check();
        Json report = reportOf();
        const bool fit = report["fit"].get<bool>();
        if (fit && !options_.sheet.empty()) writeSheet(report);
        if (fit && !options_.out.empty() && !options_.checkOnly) write(report);
        if (options_.json) out_ << report.dump(2, ' ', false, Json::error_handler_t::replace) << '\n';
        else tell(report);
        if (!fit) err_ << fmt::format("seedloom-cli: {}: not fit to be published: {} of {} settings.\n", options_.file, count_, trials_.size());
        return fit ? kDone : kNodeFailed;
    }

private:
    void check() {
        trials_ = trialsOf(*subject_.loom, {.middles = true, .pairs = true, .random = options_.random, .seed = unsigned(options_.seed)});
        fit_.closed = !options_.open;
        fit_.mostTriangles = options_.mostTriangles;
        fit_.threads = options_.threads;
        fit_.cancel = &stop_;
        verdicts_ = checkFit(subject_, trials_, fit_);
        if (stop_) throw Ending{kStopped, "stopped before all settings were tried."};
    }

    Json reportOf() {
        Json rows = Json::array();
        for (std::size_t i = 0; i < trials_.size(); ++i) {
            const Verdict& v = verdicts_[i];
            if (v.fine()) continue;
            count_ += !v.fit();
            Json row{{"kind", kindText(trials_[i].kind)},
                     {"preset", trials_[i].preset},
                     {"values", trials_[i].given},
                     {"state", stateText(v)},
                     {"node", v.node},
                     {"faults", v.faults},
                     {"ms", v.ms},
                     {"triangles", v.triangles}};
            const bool broken = v.state == Verdict::State::failed || v.state == Verdict::State::unsound;
            if (options_.shrink && broken && std::exchange(shrinks_, false)) row["smallest"] = shrunk(subject_, trials_[i], fit_).given;
            rows.push_back(std::move(row));
        }
        return {{"ok", count_ == 0},        {"file", options_.file},   {"fit", count_ == 0},
                {"trials", trials_.size()}, {"rows", std::move(rows)}, {"advice", publishAdvice(*subject_.loom)}};
    }

    void writeSheet(Json& report) {
        sheet_ = sheetFiles(subject_, options_.threads, stop_);
        std::error_code error;
        std::filesystem::create_directories(options_.sheet, error);
        for (const auto& [name, content] : sheet_)
            if (const auto problem = writeFileAtomically(std::filesystem::path(options_.sheet) / name, content)) throw Ending{kUnreadable, problem->text};
        report["sheet"] = options_.sheet;
    }

    void write(Json& report) {
        std::map<std::string, std::string> beside;
        for (auto& [name, content] : sheet_) beside[kPackedSheet + name] = std::move(content);
        const auto bytes = publishedPack(subject_, &stop_, beside);
        if (!bytes) throw Ending{bytes.error().code == "pack.cancelled" ? kStopped : kUnreadable, bytes.error().text};
        if (const auto error = writeFileAtomically(options_.out, *bytes)) throw Ending{kUnreadable, error->text};
        report["output"] = options_.out;
    }

    void tell(const Json& report) {
        out_ << fmt::format("{}: {} settings tried, {} fit\n", options_.file, trials_.size(), trials_.size() - count_);
        for (const Json& row : report["rows"]) {
            const std::string preset = row["preset"];
            out_ << fmt::format("  {} {}: {}\n", row["state"].get<std::string>(), row["kind"].get<std::string>(),
                                preset.empty() ? row["values"].dump() : preset);
            for (const Json& fault : row["faults"]) out_ << "      " << fault.get<std::string>() << '\n';
            if (row.contains("smallest")) out_ << "      the smallest change that fails so: " << row["smallest"].dump() << '\n';
        }
        for (const Json& advice : report["advice"]) out_ << "  advice: " << advice.get<std::string>() << '\n';
        if (report.contains("sheet")) out_ << "  its sheet: " << options_.sheet << '\n';
        if (report.contains("output")) out_ << "  written: " << options_.out << '\n';
    }

    const PublishOptions& options_;
    std::ostream &out_, &err_;
    std::atomic<bool>& stop_;
    FitSubject subject_;
    FitOptions fit_;
    std::vector<Trial> trials_;
    std::vector<Verdict> verdicts_;
    std::map<std::string, std::string> sheet_;
    std::size_t count_ = 0;  ///< of settings that are not fit
    bool shrinks_ = true;    ///< the next broken one
};

}  // namespace

int publishCall(const PublishOptions& options, std::ostream& out, std::ostream& err, std::atomic<bool>& stop) {
    if (options.random < 0 || options.random > 100'000) throw Ending{kWrongCall, "--random must be 0 to 100000."};
    if (options.threads < 0) throw Ending{kWrongCall, "--threads must be 0 (automatic) or more."};
    if (!options.checkOnly && !isPack(options.out)) throw Ending{kWrongCall, "name the pack to write with -o NAME.loompack, or only check with --check-only."};
    return Publishing(options, out, err, stop).run();
}

}  // namespace seedloom
