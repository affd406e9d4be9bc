#include "app/shell/SettingsDialog.h"

#include "app/look/Theme.h"
#include "app/session/Preferences.h"

#include <QtCore/QDir>
#include <QtCore/QSettings>
#include <QtGui/QAction>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QFormLayout>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QKeySequenceEdit>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QTabWidget>
#include <QtWidgets/QTableWidget>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace shortcuts {

namespace {
QString keyOf(const QAction* action) { return QStringLiteral("shortcuts/") + action->objectName(); }
constexpr const char* kFallback = "fallbackKeys";
}  // namespace

void restore(const QList<QAction*>& actions) {
    const QSettings settings;
    for (QAction* action : actions) {
        action->setProperty(kFallback, action->shortcut().toString());
        if (settings.contains(keyOf(action))) action->setShortcut(QKeySequence(settings.value(keyOf(action)).toString()));
    }
}

QKeySequence fallback(const QAction* action) { return QKeySequence(action->property(kFallback).toString()); }

QList<QAction*> clashes(const QAction* action, const QKeySequence& keys, const QList<QAction*>& actions) {
    QList<QAction*> out;
    for (QAction* other : actions)
        if (other != action && !keys.isEmpty() && other->shortcut() == keys) out << other;
    return out;
}

void set(QAction* action, const QKeySequence& keys) {
    action->setShortcut(keys);
    QSettings settings;
    if (keys == fallback(action)) settings.remove(keyOf(action));
    else settings.setValue(keyOf(action), keys.toString());
}

}  // namespace shortcuts

namespace {
QString plainText(const QAction* action) {
    QString text = action->text();
    return text.remove(QLatin1Char('&')).remove(QStringLiteral(" …"));
}
}  // namespace

namespace {

QFormLayout* formOn(QWidget* page) {
    auto* form = new QFormLayout(page);
    form->setContentsMargins(12, 18, 12, 12);
    form->setVerticalSpacing(12);
    form->setHorizontalSpacing(24);
    return form;
}

}  // namespace

/// A field with what it does below it; that label is returned.
QLabel* SettingsDialog::addRow(QFormLayout* form, const QString& name, QWidget* field, const QString& help) {
    auto* both = new QWidget(this);
    auto* column = new QVBoxLayout(both);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(3);
    auto* told = new QLabel(help, both);
    told->setProperty("role", "faint");
    told->setWordWrap(true);
    field->setAccessibleDescription(help);
    column->addWidget(field);
    column->addWidget(told);
    form->addRow(name, both);
    return told;
}

SettingsDialog::SettingsDialog(QList<QAction*> actions, QWidget* parent) : QDialog(parent), actions_(std::move(actions)) {
    setWindowTitle(tr("Settings"));
    resize(px(560), px(480));
    auto* column = new QVBoxLayout(this);
    auto* pages = new QTabWidget(this);
    pages->setAccessibleName(tr("Settings"));
    pages->setAccessibleDescription(tr("How the application looks and works, and which keys do what. Everything holds at once."));
    pages->addTab(makeLook(), tr("Look"));
    pages->addTab(makeWork(), tr("Work"));
    pages->addTab(makeKeys(), tr("Shortcuts"));
    column->addWidget(pages);
    auto* close = new QPushButton(tr("Close"), this);
    close->setDefault(true);
    close->setToolTip(tr("All that was set is kept already"));
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    column->addWidget(close, 0, Qt::AlignRight);
}

QWidget* SettingsDialog::makeLook() {
    auto* page = new QWidget(this);
    QFormLayout* form = formOn(page);
    theme_ = new QComboBox(page);
    theme_->setAccessibleName(tr("Theme"));
    theme_->addItems({tr("Linen (light)"), tr("Night (dark)")});
    theme_->setCurrentIndex(currentTheme() == ThemeName::night ? 1 : 0);
    addRow(form, tr("Theme"), theme_, tr("Light paper for bright rooms, dark for dim ones."));
    size_ = new QComboBox(page);
    size_->setAccessibleName(tr("Size of texts"));
    for (int percent : {90, 100, 115, 130, 150}) size_->addItem(tr("%1 %").arg(percent), percent);
    size_->setCurrentIndex(std::max(0, size_->findData(int(std::lround(textScale() * 100)))));
    addRow(form, tr("Size of texts"), size_, tr("Of everything in the window; cards, fields and drawers grow along."));
    auto* motion = new QCheckBox(tr("Cards slide to their places"), page);
    motion->setChecked(QSettings().value(QStringLiteral("motion"), true).toBool());
    addRow(form, tr("Motion"), motion, tr("Off: they are there at once."));
    numbers_ = new QComboBox(page);
    numbers_->setAccessibleName(tr("Numbers"));
    numbers_->addItems({tr("With a point: 0.25"), tr("With a comma: 0,25")});
    numbers_->setCurrentIndex(preferences::commaNumbers() ? 1 : 0);
    addRow(form, tr("Numbers"), numbers_, tr("How numbers are shown; both are read. Formulas and files always have the point."));
    connect(numbers_, &QComboBox::activated, this, [this](int i) {
        preferences::setCommaNumbers(i == 1);
        Q_EMIT appearanceChanged();
    });
    const auto take = [this] {
        setAppearance(theme_->currentIndex() == 1 ? ThemeName::night : ThemeName::linen, size_->currentData().toInt() / 100.0);
        Q_EMIT appearanceChanged();
    };
    connect(theme_, &QComboBox::activated, this, take);
    connect(size_, &QComboBox::activated, this, take);
    connect(motion, &QCheckBox::clicked, this, [this](bool on) {
        QSettings().setValue(QStringLiteral("motion"), on);
        Q_EMIT motionChanged(on);
    });
    return page;
}

QWidget* SettingsDialog::makeWork() {
    auto* page = new QWidget(this);
    QFormLayout* form = formOn(page);
    memory_ = new QComboBox(page);
    memory_->setAccessibleName(tr("Memory for results"));
    for (int gigabytes : preferences::memoryChoices()) memory_->addItem(tr("%1 GB").arg(gigabytes), gigabytes);
    memory_->setCurrentIndex(memory_->findData(preferences::memoryGigabytes()));
    addRow(form, tr("Memory for results"), memory_,
           tr("Results that are kept need not be made again when a value comes back. More is quicker in large looms."));
    connect(memory_, &QComboBox::activated, this, [this] { preferences::setMemoryGigabytes(memory_->currentData().toInt()); });
    threads_ = new QComboBox(page);
    threads_->setAccessibleName(tr("Threads"));
    threads_->addItem(tr("All %1").arg(preferences::machineThreads()), 0);
    for (int i = 1; i < preferences::machineThreads(); ++i) threads_->addItem(QString::number(i), i);
    threads_->setCurrentIndex(std::max(0, threads_->findData(preferences::threads())));
    addRow(form, tr("Threads"), threads_, tr("How many work on a rebuild. Fewer leave more for other programs; results are the same."));
    connect(threads_, &QComboBox::activated, this, [this] { preferences::setThreads(threads_->currentData().toInt()); });
    journal_ = new QCheckBox(tr("Write every change down at once"), page);
    journal_->setChecked(preferences::keepsJournal());
    addRow(form, tr("Recovery"), journal_,
           tr("After a crash or a power cut the next start offers what was not saved. The files themselves change only with Save."));
    connect(journal_, &QCheckBox::clicked, this, [this](bool on) {
        preferences::setKeepsJournal(on);
        Q_EMIT workChanged();
    });
    auto* where = new QWidget(page);
    auto* across = new QHBoxLayout(where);
    across->setContentsMargins(0, 0, 0, 0);
    folder_ = new QLineEdit(preferences::folder(), where);
    folder_->setAccessibleName(tr("Folder"));
    auto* choose = new QPushButton(tr("Choose …"), where);
    choose->setAccessibleName(tr("Choose the folder"));
    across->addWidget(folder_, 1);
    across->addWidget(choose);
    const QString help = tr("Where new looms are saved and dialogs for files begin.");
    auto* told = addRow(form, tr("Folder"), where, help);
    folder_->setAccessibleDescription(help);
    connect(folder_, &QLineEdit::editingFinished, this, [this, told, help] {
        const bool there = !folder_->text().isEmpty() && QDir(folder_->text()).exists();
        if (there) preferences::setFolder(folder_->text());
        told->setText(there ? help : tr("There is no folder ‘%1’; %2 stays. Choose one that exists.").arg(folder_->text(), preferences::folder()));
    });
    connect(choose, &QPushButton::clicked, this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, tr("Choose the folder"), preferences::folder());
        if (folder.isEmpty()) return;
        folder_->setText(folder);
        Q_EMIT folder_->editingFinished();
    });
    return page;
}

QWidget* SettingsDialog::makeKeys() {
    auto* page = new QWidget(this);
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 10, 0, 0);
    search_ = new QLineEdit(page);
    search_->setPlaceholderText(tr("Find a command"));
    search_->setAccessibleName(tr("Find a command"));
    column->addWidget(search_);
    table_ = new QTableWidget(0, 3, page);
    table_->setAccessibleName(tr("Commands and their keys"));
    table_->setHorizontalHeaderLabels({tr("Command"), tr("Keys"), QString()});
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table_->setColumnWidth(1, px(170));
    table_->setColumnWidth(2, px(84));
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(px(32));
    table_->setSelectionMode(QAbstractItemView::NoSelection);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    column->addWidget(table_);
    problem_ = new QLabel(tr("Click into Keys and press the new ones; Backspace takes them away."), page);
    problem_->setProperty("role", "faint");
    problem_->setWordWrap(true);
    column->addWidget(problem_);
    connect(search_, &QLineEdit::textChanged, this, [this](const QString& text) {
        for (int row = 0; row < table_->rowCount(); ++row) table_->setRowHidden(row, !plainText(actions_[row]).contains(text, Qt::CaseInsensitive));
    });
    fillKeys();
    return page;
}

void SettingsDialog::fillKeys() {
    table_->setRowCount(int(actions_.size()));
    for (int row = 0; row < table_->rowCount(); ++row) {
        table_->setItem(row, 0, new QTableWidgetItem(plainText(actions_[row])));
        auto* keys = new QKeySequenceEdit(actions_[row]->shortcut(), table_);
        keys->setAccessibleName(tr("Keys of %1").arg(plainText(actions_[row])));
        table_->setCellWidget(row, 1, keys);
        connect(keys, &QKeySequenceEdit::editingFinished, this, [this, row] { changeKeys(row); });
        auto* reset = new QPushButton(tr("Default"), table_);
        reset->setAccessibleName(tr("Default keys of %1").arg(plainText(actions_[row])));
        reset->setEnabled(actions_[row]->shortcut() != shortcuts::fallback(actions_[row]));
        table_->setCellWidget(row, 2, reset);
        connect(reset, &QPushButton::clicked, this, [this, row, keys] {
            keys->setKeySequence(shortcuts::fallback(actions_[row]));
            changeKeys(row);
        });
    }
}

void SettingsDialog::changeKeys(int row) {
    auto* edit = static_cast<QKeySequenceEdit*>(table_->cellWidget(row, 1));
    QAction* action = actions_[row];
    const QKeySequence wanted = edit->keySequence();
    if (wanted == action->shortcut()) return;
    if (const auto others = shortcuts::clashes(action, wanted, actions_); !others.isEmpty()) {
        problem_->setText(tr("%1 already belongs to ‘%2’. Take it away there first, or choose other keys.")
                              .arg(wanted.toString(QKeySequence::NativeText), plainText(others.front())));
        problem_->setProperty("role", "warning");
        edit->setKeySequence(action->shortcut());
    } else {
        shortcuts::set(action, wanted);
        problem_->setText(tr("%1: %2").arg(plainText(action), wanted.isEmpty() ? tr("no keys") : wanted.toString(QKeySequence::NativeText)));
        problem_->setProperty("role", "faint");
        table_->cellWidget(row, 2)->setEnabled(wanted != shortcuts::fallback(action));
    }
    problem_->style()->unpolish(problem_);
    problem_->style()->polish(problem_);
}

}  // namespace seedloom::app
