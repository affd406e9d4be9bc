#include "app/shell/SettingsDialog.h"

#include "app/look/Theme.h"

#include <QtCore/QSettings>
#include <QtGui/QAction>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
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

SettingsDialog::SettingsDialog(QList<QAction*> actions, QWidget* parent) : QDialog(parent), actions_(std::move(actions)) {
    setWindowTitle(tr("Settings"));
    resize(px(560), px(480));
    auto* column = new QVBoxLayout(this);
    auto* pages = new QTabWidget(this);
    pages->addTab(makeLook(), tr("Look"));
    pages->addTab(makeKeys(), tr("Shortcuts"));
    column->addWidget(pages);
    auto* close = new QPushButton(tr("Close"), this);
    close->setDefault(true);
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    column->addWidget(close, 0, Qt::AlignRight);
}

QWidget* SettingsDialog::makeLook() {
    auto* page = new QWidget(this);
    auto* form = new QFormLayout(page);
    form->setContentsMargins(12, 18, 12, 12);
    form->setVerticalSpacing(12);
    form->setHorizontalSpacing(24);
    theme_ = new QComboBox(page);
    theme_->setAccessibleName(tr("Theme"));
    theme_->addItems({tr("Linen (light)"), tr("Night (dark)")});
    theme_->setCurrentIndex(currentTheme() == ThemeName::night ? 1 : 0);
    form->addRow(tr("Theme"), theme_);
    size_ = new QComboBox(page);
    size_->setAccessibleName(tr("Size of texts"));
    for (int percent : {90, 100, 115, 130, 150}) size_->addItem(tr("%1 %").arg(percent), percent);
    size_->setCurrentIndex(std::max(0, size_->findData(int(std::lround(textScale() * 100)))));
    form->addRow(tr("Size of texts"), size_);
    auto* motion = new QCheckBox(tr("Cards slide to their places"), page);
    motion->setChecked(QSettings().value(QStringLiteral("motion"), true).toBool());
    form->addRow(tr("Motion"), motion);
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
