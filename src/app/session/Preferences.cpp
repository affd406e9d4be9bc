#include "app/session/Preferences.h"

#include "app/look/Texts.h"
#include "app/session/RebuildService.h"

#include <QtCore/QDir>
#include <QtCore/QSettings>
#include <QtCore/QStandardPaths>

#include <unistd.h>

#include <algorithm>
#include <thread>

namespace seedloom::app::preferences {

namespace {

constexpr int kUsualGigabytes = 2;
constexpr const char *kMemory = "memoryGigabytes", *kThreads = "threads", *kJournal = "journal", *kFolder = "folder", *kComma = "commaNumbers";

std::size_t machineMemory() { return std::size_t(std::max(sysconf(_SC_PHYS_PAGES), 1L)) * std::size_t(std::max(sysconf(_SC_PAGE_SIZE), 1L)); }

}  // namespace

std::vector<int> memoryChoices() {
    std::vector<int> out{1};
    while (std::size_t(out.back()) * 2 << 30 <= machineMemory() / 4 * 3) out.push_back(out.back() * 2);
    return out;
}

int memoryGigabytes() {
    const std::vector<int> choices = memoryChoices();
    const int kept = QSettings().value(QLatin1String(kMemory), kUsualGigabytes).toInt();
    // The settings may be those of a larger machine.
    const auto above = std::upper_bound(choices.begin(), choices.end(), kept);
    return above == choices.begin() ? choices.front() : *std::prev(above);
}

void setMemoryGigabytes(int gigabytes) {
    QSettings().setValue(QLatin1String(kMemory), gigabytes);
    commonEngine()->memo().setBudget(std::size_t(memoryGigabytes()) << 30);
}

int machineThreads() { return std::max(1, int(std::thread::hardware_concurrency())); }

int threads() { return std::clamp(QSettings().value(QLatin1String(kThreads), 0).toInt(), 0, machineThreads()); }

void setThreads(int count) { QSettings().setValue(QLatin1String(kThreads), count); }

bool keepsJournal() { return QSettings().value(QLatin1String(kJournal), true).toBool(); }

void setKeepsJournal(bool on) { QSettings().setValue(QLatin1String(kJournal), on); }

QString folder() {
    const QString kept = QSettings().value(QLatin1String(kFolder)).toString();
    return !kept.isEmpty() && QDir(kept).exists() ? kept : QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation);
}

void setFolder(const QString& folder) { QSettings().setValue(QLatin1String(kFolder), folder); }

bool commaNumbers() { return QSettings().value(QLatin1String(kComma), false).toBool(); }

void setCommaNumbers(bool on) {
    QSettings().setValue(QLatin1String(kComma), on);
    decimalComma() = on;
}

void restore() { decimalComma() = commaNumbers(); }

}  // namespace seedloom::app::preferences
