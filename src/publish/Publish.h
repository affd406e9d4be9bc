#pragma once
// Making a pack of a loom.
#include "formats/Pack.h"
#include "publish/FitCheck.h"

namespace seedloom {

/// What keeps a loom from being published, or nothing: no name, no version, no output.
std::optional<Error> publishProblem(const Loom& loom);
/// What others will miss: a summary, an author, a licence, help and sections of controls, presets. Each a sentence that says what to do.
std::vector<std::string> publishAdvice(const Loom& loom);

/// The bytes of a pack: the loom, all files that it reads and the assets that it uses, a picture of its defaults (unless it has nothing to show) and a
/// manifest. Built from the pack, the model is the same to the bit: that is tried, and an error if not (`pack.differs`). Errors also: publishProblem(),
/// `pack.file` for a file that can't be read, `pack.cancelled`. Files `beside` all that are put into it as they are, by their paths.
Result<std::string> publishedPack(const FitSubject& subject, const std::atomic<bool>* cancel = nullptr, const std::map<std::string, std::string>& beside = {});

}  // namespace seedloom
