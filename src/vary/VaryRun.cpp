#include "vary/VaryRun.h"

#include "meshes/MeshFile.h"
#include "vary/VaryBuilds.h"

#include <mutex>

namespace seedloom {

namespace {

constexpr int kPictureWide = 192, kPictureHigh = 144;

class VaryMaker {
public:
    VaryMaker(const FitSubject& subject, const VaryFolder& folder, const VaryOptions& options)
        : folder_(folder), options_(options), builds_(subject, options.memoBytes, options.cancel) {}

    VaryOutcome run(const std::vector<Variation>& variations, std::size_t first) {
        sideBySide(variations.size(), options_.jobs, [&](std::size_t i) {
            if (!ended()) make(variations[i], first + i);
        });
        std::sort(out_.rows.begin(), out_.rows.end(), [](const VaryRow& a, const VaryRow& b) { return a.number < b.number; });
        return std::move(out_);
    }

private:
    bool ended() {
        if (options_.cancel && *options_.cancel) return true;
        const std::lock_guard lock(mutex_);
        return out_.problem.has_value();
    }

    /// Of the model, and of the kind of results.
    std::string keyOf(const Variation& variation) const {
        Digester digester;
        digester.add(builds_.keyOf(variation).hex());
        digester.add(options_.ending + "|" + options_.pattern + "|" + (options_.pictures ? "pictures" : ""));
        return digester.finish().hex();
    }

    bool stands(const VaryRow& row, const std::string& key) const {
        const auto there = [&](const std::string& name) { return name.empty() || std::filesystem::exists(folder_ / name); };
        return row.key == key && there(row.file) && there(row.picture);
    }

    void make(const Variation& variation, std::size_t number) {
        const std::string key = keyOf(variation);
        if (auto before = folder_.done(number); before && stands(*before, key)) return tell(std::move(*before), false);
        const auto claim = folder_.claim(number);
        if (!claim) {
            const std::lock_guard lock(mutex_);
            ++out_.elsewhere;
            return;
        }
        // Another program may have made it between the look and the claim.
        if (auto before = folder_.done(number); before && stands(*before, key)) return tell(std::move(*before), false);
        VaryRow row;
        row.number = number, row.variation = variation, row.key = key;
        bool written = true;
        if (!builds_.build(row, [&](const Geometry& model) { written = write(row, model); }) || !written) return;
        if (auto error = folder_.finish(row)) return end(std::move(*error));
        tell(std::move(row), true);
    }

    /// False where nothing can be written any more.
    bool write(VaryRow& row, const Geometry& model) {
        if (!options_.ending.empty()) {
            const auto name = variationName(options_.pattern, builds_.loom(), row.number, row.variation, row.values);
            if (!name) return end(name.error()), false;
            row.file = *name + options_.ending;
            if (auto error = writeMesh(model, folder_ / row.file)) return end(std::move(*error)), false;
        }
        if (!options_.pictures || model.empty()) return true;
        row.picture = folder_.pictureName(row.number);
        const Picture small = variationPicture(model, kPictureWide, kPictureHigh, 30, 20, options_.cancel);
        if (auto error = writePng(small, folder_ / row.picture)) return end(std::move(*error)), false;
        return true;
    }

    void end(Error error) {
        const std::lock_guard lock(mutex_);
        if (!out_.problem) out_.problem = std::move(error);
    }

    void tell(VaryRow row, bool made) {
        const std::lock_guard lock(mutex_);
        ++(made ? out_.made : out_.kept);
        if (options_.onRow) options_.onRow(row);
        out_.rows.push_back(std::move(row));
    }

    const VaryFolder& folder_;
    const VaryOptions& options_;
    VaryBuilds builds_;
    std::mutex mutex_;
    VaryOutcome out_;
};

}  // namespace

VaryOutcome vary(const FitSubject& subject, const std::vector<Variation>& variations, std::size_t first, const VaryFolder& folder, const VaryOptions& options) {
    return VaryMaker(subject, folder, options).run(variations, first);
}

}  // namespace seedloom
