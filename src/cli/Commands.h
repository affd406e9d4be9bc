#pragma once
#include <atomic>
#include <iosfwd>
#include <string>
#include <vector>

namespace seedloom {

/// Exit statuses, as in docs/command-line.md.
enum ExitStatus { kDone = 0, kWrongCall = 1, kUnreadable = 2, kNodeFailed = 3, kStopped = 4 };

/// The whole command line but for the process: arguments without the program's name. Setting `stop` from a signal or another thread
/// ends a rebuild with kStopped.
int runCommandLine(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err, std::atomic<bool>& stop);

}  // namespace seedloom
