#pragma once
// What somebody set once for all looms on this machine. Each setting holds at once and is kept.
#include <QtCore/QString>

#include <vector>

namespace seedloom::app::preferences {

/// Results that are kept, so that they need not be made again; in whole gigabytes, one of memoryChoices().
int memoryGigabytes();
void setMemoryGigabytes(int gigabytes);
/// Up to three quarters of what the machine has, at least 1.
std::vector<int> memoryChoices();

/// How many of the machine's threads rebuilds use; 0 for all of them.
int threads();
void setThreads(int count);
int machineThreads();

/// Whether every change is written down at once, so that it can be brought back after a power cut.
bool keepsJournal();
void setKeepsJournal(bool on);

/// Where dialogs for files begin: the folder that was set, while it is there; else the user's documents.
QString folder();
void setFolder(const QString& folder);

/// Whether numbers have a comma; otherwise a point.
bool commaNumbers();
void setCommaNumbers(bool on);

/// Takes over what was kept; called once, before the first window.
void restore();

}  // namespace seedloom::app::preferences
