#pragma once
// One of the ways in which a window works on its session. Rail, View menu and shortcuts read the table of them; a window knows nothing else of any.
#include "app/session/Session.h"

#include <QtGui/QAction>
#include <QtWidgets/QMenu>

#include <functional>

namespace seedloom::app {

/// Where a workplace puts its commands: the window's menus and its list of all commands.
class CommandHost {
public:
    virtual ~CommandHost() = default;
    /// A menu by its id: edit, view, or a new one with that title before Help.
    virtual QMenu* menu(const QString& id, const QString& title = {}) = 0;
    virtual QAction* add(QMenu* menu, const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run) = 0;
    /// Every command, by the id under which its shortcut is kept; nullptr where there is none.
    virtual QAction* action(const QString& id) const = 0;
};

class Workplace : public QObject {
    Q_OBJECT

public:
    explicit Workplace(Session& session, QObject* parent = nullptr) : QObject(parent), session_(session) {}

    virtual QString id() const = 0;
    virtual QString iconName() const = 0;
    virtual QString label() const = 0;
    virtual QString tip() const = 0;
    /// Its commands, made once for the window's life.
    virtual void addCommands(CommandHost& host) = 0;
    /// Its widgets, made anew after a change of theme or size of texts; those made before are gone by then.
    virtual QWidget* makeWidget(QWidget* parent) = 0;
    /// Shown, and not shown any more.
    virtual void enter() = 0;
    virtual void leave() = 0;
    /// How the document is looked at here, for its file. What does not fit is left as it is: a view is never a reason not to open a document.
    virtual Json saveView() const = 0;
    virtual void restoreView(const Json& view) = 0;
    /// Sizes and places of its parts, under `key`.
    virtual void saveLayout(const QString& key) const = 0;
    virtual void restoreLayout(const QString& key) = 0;
    /// What must outlast makeWidget: widgets are asked before, and given it back after.
    virtual std::function<void()> keepState() = 0;

Q_SIGNALS:
    /// Something that the user should read; an empty text takes it away.
    void messageWanted(const QString& text);
    /// Another workplace is to be shown.
    void workplaceWanted(const QString& id);
    /// Another document is to be opened, in a window of its own.
    void documentWanted(const QString& file);

protected:
    Session& session_;
};

}  // namespace seedloom::app
