#pragma once
// The folder in which variations are made: models, small pictures, and a record of each that is done, so that a run goes on where it stopped and several
// programs can work in one folder.
#include "vary/VaryRow.h"

#include <filesystem>
#include <memory>

namespace seedloom {

class VaryFolder {
public:
    /// Made where it is not there. Error `file.write`.
    static Result<VaryFolder> open(const std::filesystem::path& folder);
    const std::filesystem::path& path() const { return path_; }

    /// The record of a row that is done; nothing where there is none that can be read.
    std::optional<VaryRow> done(std::size_t number) const;
    /// Numbers of all rows with a record, in order.
    std::vector<std::size_t> numbers() const;
    /// Written whole or not at all; only now is the row done. Error `file.write`.
    std::optional<Error> finish(const VaryRow& row) const;

    /// While it lives, no other program makes this row; the system takes it back when a program dies. Null where another one has it.
    struct Claim {
        virtual ~Claim() = default;
    };
    std::unique_ptr<Claim> claim(std::size_t number) const;

    /// Names in the folder: "name-0017" with as many digits as it takes, and what lies aside.
    std::string pictureName(std::size_t number) const;
    std::filesystem::path operator/(const std::string& name) const { return path_ / name; }

private:
    explicit VaryFolder(std::filesystem::path path) : path_(std::move(path)) {}
    std::filesystem::path record(std::size_t number) const;
    std::filesystem::path path_;
};

/// A file's name without ending after a pattern: {name} is the loom's, {n} the number with four digits at least, {preset}, and {ID} the value of a control.
/// What can't stand in a name becomes a dash. Error `vary.pattern` for an unknown word, or a pattern without {n} (then files would overwrite each other).
Result<std::string> variationName(const std::string& pattern, const Loom& loom, std::size_t number, const Variation& variation, const ControlValues& values);

}  // namespace seedloom
