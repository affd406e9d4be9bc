#pragma once
// What one operator sees while it runs: its inputs, its settings as values, and a place for notices.
#include "fields/Evaluate.h"
#include "files/FileSource.h"
#include "geometry/Materials.h"
#include "operators/DrawnLine.h"
#include "operators/Notice.h"
#include "operators/Spec.h"
#include "operators/UnfinishedWork.h"

#include <filesystem>
#include <functional>

namespace seedloom {

/// Ends an operator with an error notice; thrown by OperatorCall only, caught by runOperator.
struct OperatorFailure {
    Notice notice;
};

/// One more entry of a list in a setting, which a hand still makes, and where what the others come to is kept meanwhile.
struct UnfinishedItem {
    std::string setting;  ///< empty: none
    Json item;
    Digest without;  ///< of all that goes into the step but the item
    UnfinishedWork* work = nullptr;
};

struct OperatorInput {
    std::vector<std::vector<Geometry>> ports;        ///< in the order of the declaration; several where a port takes many
    std::shared_ptr<const SettingSources> settings;  ///< complete: defaults filled in
    UnfinishedItem unfinished;
    double time = 0, frame = 0;
    ControlValues controls;
    SurroundingWords words;     ///< given by the containers around it
    std::string folder;         ///< that paths of files start from; empty: the working folder
    Files files = diskFiles();  ///< where they come from
};

class OperatorCall {
public:
    OperatorCall(const OperatorSpec& spec, const OperatorInput& input, const RunContext& run) : spec_(spec), input_(input), run_(run) {}

    const RunContext& run() const { return run_; }
    /// The first geometry at the first port; empty where the operator has none.
    const Geometry& in() const;
    const std::vector<Geometry>& port(std::size_t i) const { return input_.ports[i]; }

    // Single values; numbers outside the declared range end the call with `setting.range`.
    double number(std::string_view id) const;
    int integer(std::string_view id) const;
    bool flag(std::string_view id) const;
    Vec2 vec2(std::string_view id) const;
    Vec3 vec3(std::string_view id) const;
    std::string choice(std::string_view id) const;
    std::string text(std::string_view id) const;
    Ramp ramp(std::string_view id) const;
    std::vector<Vec3> points(std::string_view id) const;
    /// Those that are not hidden.
    std::vector<std::vector<Vec3>> lines(std::string_view id) const;
    /// One entry of such a setting.
    std::vector<Vec3> lineIn(const Json& value, std::string_view id) const { return pointsIn(pointsOfLine(value), id); }
    /// Materials, and how often each is wanted beside the others.
    std::vector<std::pair<Material, double>> materials(std::string_view id) const;
    /// The entry of a list that a hand still makes; it comes after those of the setting. Null: none.
    const Json* unfinished(std::string_view id) const;
    /// What all comes to without that entry: made once, while the hand moves.
    template <class T, class Make> std::shared_ptr<const T> withoutUnfinished(Make make) const {
        UnfinishedWork* work = input_.unfinished.work;
        auto found = work ? work->find<T>(input_.unfinished.without) : nullptr;
        if (found) return found;
        found = std::make_shared<const T>(make());
        if (work) work->keep<T>(input_.unfinished.without, found);
        return found;
    }
    /// The words that a setting can be.
    const std::vector<std::string>& choicesOf(std::string_view id) const { return specOf(id).choices; }
    const FileSource& files() const { return *input_.files; }
    /// The path of a file setting, from the document's folder.
    std::filesystem::path file(std::string_view id) const;
    /// What that file holds; fails with what to do where it can't be read.
    std::string bytesOf(std::string_view id) const;
    /// Nothing for "auto".
    ValueRange range(std::string_view id) const;

    /// Values for each element of `geometry`, of the setting's declared element kind unless another is given.
    Field<float> each(std::string_view id, const Geometry& geometry) const;
    Field<float> each(std::string_view id, const Geometry& geometry, Element element) const;
    Field<Vec3> each3(std::string_view id, const Geometry& geometry, Element element) const;
    Numbers eachNumbers(std::string_view id, const Geometry& geometry, Element element) const;
    /// `where` × `blend` (which not every operator has), held in 0–1.
    /// Tells of masks outside 0–1, of values that are no numbers, and of a mask that chooses nothing.
    Field<float> weights(const Geometry& geometry, Element element);
    /// Where the setting takes its value from.
    const Source& source(std::string_view id) const;
    /// What a formula over each element of `geometry` may read.
    FieldContext fieldsOf(const Geometry& geometry, Element element) const { return context(&geometry, element, true); }

    /// What goes out of the second output (1), the third (2) …; the first is what compute returns. Not given: empty.
    void give(std::size_t output, Geometry geometry);

    /// A change that helps: goes with the next notice that is told or failed with.
    void offer(NoticeFix fix) const { offered_.push_back(std::move(fix)); }
    /// The same notice twice is told once.
    void tell(NoticeLevel level, std::string code, std::string text, std::string setting = {});
    /// The same with the text, code and place of `error`.
    void tell(NoticeLevel level, const Error& error, std::string setting);
    /// Ends the operator: the input passes through, with this error.
    [[noreturn]] void fail(std::string code, std::string text, std::string setting = {}) const;

    /// The same with the error's text, code and place.
    [[noreturn]] void fail(const Error& error, std::string setting) const;

    std::vector<Geometry> takeOthers();
    std::vector<Notice> takeNotices() { return std::move(notices_); }
    /// What another call of the same step told.
    void addNotices(std::vector<Notice> told) { notices_.insert(notices_.end(), std::make_move_iterator(told.begin()), std::make_move_iterator(told.end())); }

private:
    const SettingSpec& specOf(std::string_view id) const;
    /// Ends the operator with what evaluating that setting failed with.
    [[noreturn]] void failBy(const FieldError& error, const SettingSpec& spec) const;
    FieldContext context(const Geometry* geometry, Element element, bool perElement) const;
    Numbers single(std::string_view id) const;
    const Json& fixed(std::string_view id) const;
    /// `where`: which part of the setting it is, for messages.
    std::vector<Vec3> pointsIn(const Json& value, std::string_view id, const std::string& where = {}) const;
    void judgeMask(const Field<float>& where);
    void checkRange(const SettingSpec& spec, double value) const;

    const OperatorSpec& spec_;
    const OperatorInput& input_;
    const RunContext& run_;
    std::vector<Geometry> others_;
    std::vector<Notice> notices_;
    mutable std::vector<NoticeFix> offered_;
};

struct OperatorOutcome {
    Geometry geometry;
    std::vector<Geometry> others;  ///< of the second output and further ones
    std::vector<Notice> notices;
    bool failed = false;
};

/// Runs an operator. Whatever goes wrong, short of cancellation (which throws Cancelled), becomes an error notice and the
/// first input passes through.
/// `make` is called in the place of the operator's own computation where it is given. One with state is computed from its frame 0 on, with what is plugged
/// in now at every frame.
OperatorOutcome runOperator(const OperatorSpec& spec, const OperatorInput& input, const RunContext& run,
                            const std::function<Geometry(OperatorCall&)>& make = {});

}  // namespace seedloom
