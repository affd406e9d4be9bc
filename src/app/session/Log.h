#pragma once
// What happened, for reports of problems: one file in the user's state folder, which begins anew when it has become long. Written behind the interface.
#include "app/session/Background.h"

#include <QtCore/QString>

#include <mutex>

namespace seedloom::app {

class Log {
public:
    static constexpr qint64 kLongest = 512 * 1024;  ///< then it becomes the older one of two

    /// Writes to `folder`/seedloom.log from now on; what was said before is written first. An empty folder: nowhere.
    void open(const QString& folder);
    /// One line with the time; may be called from any thread. Kept to 2 000 characters.
    void say(const QString& line);
    /// The newest lines, at most `most` characters of whole lines; waits until all that was said is written.
    QString newest(qsizetype most = 200'000);
    QString file() const;

    /// The one of the program.
    static Log& common();
    /// Where it belongs: XDG_STATE_HOME, or ~/.local/state.
    static QString stateFolder();

private:
    void write();
    mutable std::mutex mutex_;
    QString folder_;
    QStringList waiting_;
    Background background_;  ///< last: it stops before what it reads goes
};

}  // namespace seedloom::app
