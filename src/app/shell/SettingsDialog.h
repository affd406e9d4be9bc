#pragma once
#include <QtWidgets/QDialog>

class QCheckBox;
class QTableWidget;
class QLabel;
class QComboBox;
class QFormLayout;
class QLineEdit;

namespace seedloom::app {

/// Keys of actions as people want them; an action's id is its object name.
namespace shortcuts {
/// Puts the keys that were kept from earlier on the actions; what they had before is their default.
void restore(const QList<QAction*>& actions);
QKeySequence fallback(const QAction* action);
/// Other actions that use the same keys in the same place.
QList<QAction*> clashes(const QAction* action, const QKeySequence& keys, const QList<QAction*>& actions);
/// Puts keys on an action and keeps them for the next start; its default again is not kept.
void set(QAction* action, const QKeySequence& keys);
}  // namespace shortcuts

/// How the application looks and works, and which keys do what. Everything holds at once.
class SettingsDialog : public QDialog {
    Q_OBJECT

public:
    SettingsDialog(QList<QAction*> actions, QWidget* parent);
    QComboBox* themeBox() const { return theme_; }
    QComboBox* sizeBox() const { return size_; }
    QComboBox* numbersBox() const { return numbers_; }
    QComboBox* memoryBox() const { return memory_; }
    QComboBox* threadsBox() const { return threads_; }
    QCheckBox* journalBox() const { return journal_; }
    QLineEdit* folderField() const { return folder_; }
    QTableWidget* keyTable() const { return table_; }
    QLineEdit* keySearch() const { return search_; }

Q_SIGNALS:
    void appearanceChanged();
    void motionChanged(bool on);
    /// Whether journals are kept.
    void workChanged();

private:
    QWidget* makeLook();
    QWidget* makeWork();
    QWidget* makeKeys();
    QLabel* addRow(QFormLayout* form, const QString& name, QWidget* field, const QString& help);
    void fillKeys();
    void changeKeys(int row);

    QList<QAction*> actions_;
    QComboBox *theme_ = nullptr, *size_ = nullptr, *numbers_ = nullptr, *memory_ = nullptr, *threads_ = nullptr;
    QCheckBox* journal_ = nullptr;
    QLineEdit* folder_ = nullptr;
    QTableWidget* table_ = nullptr;
    QLineEdit* search_ = nullptr;
    QLabel* problem_ = nullptr;
};

}  // namespace seedloom::app
