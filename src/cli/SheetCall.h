#pragma once
#include "geometry/Result.h"

#include <atomic>
#include <filesystem>
#include <iosfwd>
#include <map>
#include <string>

namespace seedloom {

struct FitSubject;

struct SheetCallOptions {
    std::string file, out;
    bool json = false;
    int threads = 0;
};

/// Writes the sheet of a loom or pack as .html or .png. Returns an exit status; throws Ending.
int sheetCall(const SheetCallOptions& options, std::ostream& out, std::atomic<bool>& stop);

/// The files of a sheet, by name: sheet.html and sheet.png. Throws Ending.
std::map<std::string, std::string> sheetFiles(const FitSubject& subject, int threads, std::atomic<bool>& stop);

}  // namespace seedloom
