#pragma once
// What can be said of a node without its inputs: its settings read, what they depend on, and a digest of it all. Kept from one rebuild to
// the next, because in a large graph reading settings anew would take longer than everything else.
#include "geometry/Digest.h"
#include "graph/Assets.h"
#include "operators/Notice.h"
#include "operators/Spec.h"

#include <memory>
#include <mutex>
#include <set>

namespace seedloom {

/// A file that a step reads: a path as it is written, or the control that names it.
struct FileUse {
    std::string folder;  ///< of the asset that asks for it, from the document's folder on; empty outside
    std::string path;
    bool byControl = false;  ///< `path` is the control's id
    auto operator<=>(const FileUse&) const = default;
};

/// All that a step may read beside its settings and its inputs. What is not named here is not handed to it (see StepKey).
struct StepUses {
    bool time = false;
    bool frameLength = false;  ///< how many seconds a frame takes, and whether there are earlier ones
    std::set<std::string> controls;
    std::set<std::string> names;     ///< that formulas and sources read: attributes, or words of a container
    std::set<std::string> plugged;   ///< input geometries, by name
    std::set<std::string> formulas;  ///< controls whose value is a formula's text; what that reads is found when it is known
    std::set<FileUse> files;
};

struct NodePlan {
    std::string op;
    std::shared_ptr<const OperatorSpec> spec;        ///< with the settings that the node declares itself; nullptr for an unknown operator
    SharedJson written;                              ///< the settings that it was made from
    Inside inside;                                   ///< the inner graph that it was made from, or the asset's
    Json noted;                                      ///< what the loom notes of an asset: the version that it was saved with
    std::shared_ptr<const SettingSources> settings;  ///< complete: defaults filled in
    std::vector<Notice> problems;                    ///< settings that can't be read or do not exist
    StepUses uses;                                   ///< of what is inside as well
    bool timedSettings = false;                      ///< whether its own settings read the time
    Digest digest;                                   ///< of operator, version, settings, and all that is inside
    /// The same without the setting that says which frame is the result: what its frames are remembered by. Null where nothing is written there.
    std::shared_ptr<const NodePlan> frames;
};

/// A value as it would be written.
void addJson(Digester& digester, const Json& value);
/// What a formula's text reads; nothing where it can't be read.
void noteFormula(StepUses& uses, const std::string& text);

/// Plans by node id and path of the container; thread-safe.
class PlanCache {
public:
    /// `path` is that of the container around, with a slash at its end.
    std::shared_ptr<const NodePlan> of(const Node& node, const std::string& path, const Assets& assets);

private:
    static constexpr std::size_t kMost = 50000;
    std::mutex mutex_;
    std::map<std::string, std::shared_ptr<const NodePlan>> plans_;
};

}  // namespace seedloom
