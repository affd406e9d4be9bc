// Themes, sizes, long languages, names for screen readers; in real windows.
#include "WindowTest.h"
#include "app/data/DataDrawer.h"
#include "app/library/LibraryDrawer.h"
#include "app/session/Preferences.h"
#include "app/session/RecentFiles.h"
#include "app/settings/ControlForm.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/shell/PublishWindow.h"
#include "app/shell/SettingsDialog.h"
#include "app/shell/TopLine.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/weave/QuickAdd.h"
#include "app/widgets/Finder.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/Slider.h"
#include "files/FileIo.h"
#include "formats/LoomFile.h"
#include "geometry/Digest.h"

#include <QtCore/QMimeData>
#include <QtCore/QProcess>
#include <QtCore/QTranslator>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QKeySequenceEdit>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QMenu>
#include <QtWidgets/QMenuBar>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QTabWidget>
#include <QtWidgets/QTableWidget>
#include <QtWidgets/QToolButton>

#include <sys/resource.h>
#include <csignal>
#include <cstdio>

using namespace seedloom;
using namespace seedloom::app;

namespace {

/// Every text a third longer, with accents: what a long language would do to the window.
class LongLanguage : public QTranslator {
public:
    bool isEmpty() const override { return false; }
    QString translate(const char*, const char* source, const char*, int n) const override {
        QString text = QString::fromUtf8(source);
        if (n >= 0) text.replace(QStringLiteral("%n"), QString::number(n));
        QString out;
        for (QChar c : text) out += c == QLatin1Char('a') ? QChar(0xE4) : c == QLatin1Char('e') ? QChar(0xE9) : c == QLatin1Char('o') ? QChar(0xF6) : c;
        return out + QString(int(text.size()) / 3, QLatin1Char('~'));
    }
};

/// Widgets whose text does not fit into them.
QStringList cutTexts(const QWidget& window) {
    QStringList out;
    for (auto* widget : window.findChildren<QWidget*>()) {
        if (!widget->isVisible()) continue;
        QString text;
        const auto* tool = qobject_cast<QToolButton*>(widget);
        if (tool && tool->toolButtonStyle() == Qt::ToolButtonIconOnly && !tool->icon().isNull()) continue;
        if (auto* button = qobject_cast<QAbstractButton*>(widget)) text = button->text();
        else if (auto* label = qobject_cast<QLabel*>(widget); label && !label->wordWrap()) text = label->text();
        if (text.isEmpty() || text.startsWith(QLatin1Char('<'))) continue;
        if (widget->width() < widget->minimumSizeHint().width() || widget->fontMetrics().horizontalAdvance(text.remove('&')) > widget->width() + 1) out << text;
    }
    return out;
}

/// Widgets that stick out of the one they are in.
QStringList outside(const QWidget& window) {
    QStringList out;
    for (auto* widget : window.findChildren<QWidget*>()) {
        const QWidget* parent = widget->parentWidget();
        if (!widget->isVisible() || widget->isWindow() || !parent || parent->inherits("QScrollArea") || parent->inherits("QAbstractScrollArea") ||
            parent->objectName() == "qt_scrollarea_viewport" || parent->inherits("QHeaderView"))
            continue;
        if (widget->width() > 0 && (widget->geometry().right() > parent->width() + 1 || widget->geometry().bottom() > parent->height() + 1) &&
            !widget->inherits("QScrollBar"))
            out << QString::fromLatin1(widget->metaObject()->className()) + ' ' + widget->objectName() + widget->accessibleName();
    }
    return out;
}

/// Texts and buttons of one place that lie over each other.
QStringList overlapping(const QWidget& window) {
    QStringList out;
    const auto tells = [](const QWidget* widget) {
        return widget->isVisible() && (qobject_cast<const QLabel*>(widget) || qobject_cast<const QAbstractButton*>(widget));
    };
    for (const QWidget* widget : window.findChildren<QWidget*>()) {
        if (!tells(widget)) continue;
        for (const QObject* other : widget->parentWidget()->children()) {
            const auto* beside = qobject_cast<const QWidget*>(other);
            if (!beside || beside <= widget || !tells(beside) || !beside->geometry().adjusted(1, 1, -1, -1).intersects(widget->geometry())) continue;
            out << QStringLiteral("%1 over %2").arg(beside->accessibleName() + beside->property("text").toString(), widget->property("text").toString());
        }
    }
    return out;
}

}  // namespace

class TestLooks : public WindowTest {
    Q_OBJECT

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() {
        window_.reset();
        setAppearance(ThemeName::linen, 1);
    }

    void themesAreReadable() {
        const auto light = [](const QColor& c) {
            const auto part = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
            return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
        };
        const auto contrast = [&](const QColor& a, const QColor& b) {
            const double x = light(a), y = light(b);
            return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
        };
        for (ThemeName theme : {ThemeName::linen, ThemeName::night}) {
            const Colours& c = coloursOf(theme);
            for (const QColor& ground : {c.paper, c.card})
                for (const QColor& text : {c.ink, c.faint, c.chosen, c.link, c.fresh, c.warning})
                    QVERIFY2(contrast(text, ground) >= 4.5, qPrintable(text.name() + " on " + ground.name()));
            for (const QColor& ground : {c.field, c.note, c.stageTop, c.stageFoot}) QVERIFY2(contrast(c.ink, ground) >= 4.5, qPrintable(ground.name()));
            for (const QColor& tint : c.tints) QVERIFY2(contrast(c.ink, tint) >= 4.5 && contrast(c.faint, tint) >= 4.0, qPrintable(tint.name()));
            QVERIFY(contrast(c.card, c.chosen) >= 4.5);
        }
    }

    /// Whatever the keyboard can reach has a name for a screen reader and a sentence that says what it does; everywhere in the window.
    void everyControlHasANameAndAHelpSentence() {
        QStringList bare;
        const auto walk = [&](const QWidget* place, const QString& where) {
            for (const QWidget* widget : place->findChildren<QWidget*>()) {
                if (!widget->isVisible() || !(widget->focusPolicy() & Qt::TabFocus) || widget->inherits("QScrollBar") ||
                    widget->inherits("QTableCornerButton") || widget->inherits("QMenuBar") || widget->inherits("QHeaderView") || widget->inherits("QTabBar"))
                    continue;
                const auto* button = qobject_cast<const QAbstractButton*>(widget);
                const QString name = !widget->accessibleName().isEmpty() ? widget->accessibleName() : button ? button->text() : QString();
                const QString help = widget->accessibleDescription() + widget->toolTip();
                const QString what = where + QStringLiteral(": ") + QLatin1String(widget->metaObject()->className()) + QStringLiteral(" ‘%1’").arg(name);
                if (name.isEmpty() && !(button && !button->toolTip().isEmpty())) bare << what + QStringLiteral(" has no name");
                if (help.isEmpty()) bare << what + QStringLiteral(" has no help");
            }
        };
        walk(window_.get(), "window");
        for (const Node& node : loom().nodes) {
            weave()->choose(node.id);
            walk(window_->settings(), QString::fromStdString("settings of " + node.op));
        }
        for (const char* drawer : {"data", "checkup", "notices", "time"}) {
            window_->showDrawer(drawer);
            waitFresh();
            QTest::qWait(100);
            walk(window_.get(), drawer);
        }
        window_->showDrawer({});
        window_->showStart(true);
        walk(window_.get(), "start page");
        window_->showStart(false);
        window_->controls()->askForChange("height");
        walk(window_->controls(), "a control");
        QTest::keyClick(window_->controls()->form()->name(), Qt::Key_Escape);
        PublishWindow* publish = window_->showPublish();
        for (int page = 0; page < publish->pages()->count(); ++page) {
            publish->pages()->setCurrentIndex(page);
            walk(publish, "publish");
        }
        publish->close();
        window_->showLibrary(true);
        walk(window_->libraryDrawer(), "library");
        window_->showLibrary(false);
        run("settings");
        walk(window_->findChild<SettingsDialog*>(), "settings");
        bare.removeDuplicates();
        QVERIFY2(bare.isEmpty(), qPrintable(bare.join('\n')));
    }

    /// What is set holds at once, is kept, and says what it does; what can't be is said.
    void workIsSetAndKept() {
        run("settings");
        auto* dialog = window_->findChild<SettingsDialog*>();
        QVERIFY(dialog);
        const auto pick = [](QComboBox* box, int i) {
            box->setCurrentIndex(i);
            Q_EMIT box->activated(i);
        };
        for (QWidget* field : std::initializer_list<QWidget*>{dialog->themeBox(), dialog->sizeBox(), dialog->numbersBox(), dialog->memoryBox(),
                                                              dialog->threadsBox(), dialog->folderField()})
            QVERIFY(!field->accessibleName().isEmpty());
        // Memory: what does not fit any more is dropped.
        QCOMPARE(dialog->memoryBox()->currentData().toInt(), preferences::memoryGigabytes());
        pick(dialog->memoryBox(), 0);
        QCOMPARE(preferences::memoryGigabytes(), 1);
        pick(dialog->threadsBox(), dialog->threadsBox()->count() - 1);
        QCOMPARE(preferences::threads(), preferences::machineThreads() > 1 ? preferences::machineThreads() - 1 : 0);
        const Digest before = digestOf(output());
        document().apply(setControlValue(loom(), "height", 1.3));
        QVERIFY(digestOf(output()) != before);
        undo();
        QCOMPARE(digestOf(output()), before);
        // The folder: one that is not there is not taken.
        const QString kept = preferences::folder();
        dialog->folderField()->setText(folder_.filePath("nowhere"));
        Q_EMIT dialog->folderField()->editingFinished();
        QCOMPARE(preferences::folder(), kept);
        dialog->folderField()->setText(folder_.path());
        Q_EMIT dialog->folderField()->editingFinished();
        QCOMPARE(preferences::folder(), folder_.path());
        // A journal is written as long as it is wanted.
        const QString journals = folder_.filePath("journals");
        window_->keepJournalIn(journals);
        const auto written = [&] { return QDir(journals).entryList({"*"}, QDir::Files).size(); };
        QVERIFY(written() > 0);
        dialog->journalBox()->click();
        QVERIFY(!preferences::keepsJournal());
        document().apply(setControlValue(loom(), "height", 1.4));
        QCOMPARE(written(), 0);
        dialog->journalBox()->click();
        document().apply(setControlValue(loom(), "height", 1.5));
        QVERIFY(written() > 0);
        // A comma in every number that is read, and understood where it is typed.
        pick(dialog->numbersBox(), 1);
        NumberField* field = window_->controls()->field("height");
        QCOMPARE(field->text(), QStringLiteral("1,50"));
        QTest::mouseClick(field, Qt::LeftButton);
        QTest::keyClicks(field, "1,2 + 0,1");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(loom().values.at("height").get<double>(), 1.3);
        pick(dialog->numbersBox(), 0);
        QCOMPARE(window_->controls()->field("height")->text(), QStringLiteral("1.30"));
        pick(dialog->threadsBox(), 0);
        dialog->close();
    }

    void themeAndSizeChangeEverythingAndKeepTheWork() {
        document().apply(setControlValue(loom(), "height", 1.2));
        weave()->choose("wall");
        window_->showDrawer("data");
        run("sides");
        run("wire");
        // What was opened over the whole window goes with the weave that it belongs to.
        run("find");
        const QPointer<QWidget> finder = weave()->finder();
        QVERIFY(finder && finder->isVisible() && finder->parentWidget() == window_.get());
        const int before = window_->controls()->field("height")->height();
        setAppearance(ThemeName::night, 1.3);
        window_->rebuildInterface();
        QVERIFY(!finder || !finder->isVisible());
        QTRY_VERIFY(!finder);
        waitFresh();
        QCOMPARE(weave()->chosen(), std::string("wall"));
        QVERIFY(window_->settings()->row("thickness"));
        QVERIFY(window_->data()->model()->rowCount() > 0);
        QCOMPARE(window_->shownDrawer(), QString("data"));
        QVERIFY(document().modified() && loom().values.at("height") == Json(1.2));
        QVERIFY(window_->controls()->field("height")->height() > before);
        QCOMPARE(weave()->grab().toImage().pixelColor(3, weave()->height() - 3), coloursOf(ThemeName::night).paper);
        // So does the way in which it is looked at.
        QCOMPARE(window_->stage()->tools()->look().shading, Shading::sides);
        QVERIFY(window_->stage()->tools()->overlay("wire") && window_->action("wire")->isChecked());
        // It still works.
        click("body");
        QVERIFY(window_->settings()->row("sides"));
        document().undo();
        setAppearance(ThemeName::linen, 1);
        window_->rebuildInterface();
        QCOMPARE(weave()->chosen(), std::string("body"));
        QVERIFY(QSettings().value("theme").toString() == "linen");
    }

    void theLayoutIsRememberedForTheSizeOfScreen() {
        window_->showDrawer("checkup");
        window_->close();
        MainWindow second;
        QCOMPARE(second.shownDrawer(), QString("checkup"));
        QVERIFY(!QSettings().allKeys().filter(QStringLiteral("layout-1280x800")).isEmpty());
        QSettings().remove("layout-1280x800");
    }

    void everythingFitsIntoEveryWindowAtEverySizeOfText_data() {
        QTest::addColumn<int>("percent");
        QTest::addColumn<QSize>("size");
        for (int percent : {100, 125, 150})
            for (const QSize& size : {QSize(1024, 768), QSize(1280, 800), QSize(2560, 1440)})
                QTest::addRow("%d %%, %d wide", percent, size.width()) << percent << size;
    }
    void everythingFitsIntoEveryWindowAtEverySizeOfText() {
        QFETCH(int, percent);
        QFETCH(QSize, size);
        setAppearance(ThemeName::linen, percent / 100.0);
        window_->rebuildInterface();
        window_->resize(size);
        QCOMPARE(window_->size(), size);
        for (const char* node : {"outline", "wobble"}) {
            weave()->choose(node);
            for (const char* drawer : {"data", "checkup", "notices", "time", ""}) {
                window_->showDrawer(drawer);
                waitFresh();
                QTest::qWait(120);
                const auto where = [&](const QStringList& what) { return qPrintable(QStringLiteral("%1, %2: ").arg(node, drawer) + what.join(" | ")); };
                QVERIFY2(outside(*window_).isEmpty(), where(outside(*window_)));
                QTRY_VERIFY2(cutTexts(*window_).isEmpty(), where(cutTexts(*window_)));
                QVERIFY2(overlapping(*window_).isEmpty(), where(overlapping(*window_)));
                QVERIFY2(window_->stage()->height() >= 140 && weave()->height() >= 90, drawer);
                // By themselves drawers leave the larger part to what is made.
                QVERIFY2((window_->stage()->height() + weave()->height()) * 2 >= size.height(), drawer);
            }
        }
    }

    void aLongLanguageIsNotCut() {
        LongLanguage language;
        QVERIFY(QCoreApplication::installTranslator(&language));
        {
            MainWindow window;
            window.openDemo();
            window.resize(1280, 800);
            window.show();
            QVERIFY(QTest::qWaitForWindowExposed(&window));
            QTRY_VERIFY(!window.rebuilds().running());
            for (const char* drawer : {"data", "checkup", "notices", "time"}) {
                window.showDrawer(drawer);
                QTest::qWait(250);
                QTRY_VERIFY2(cutTexts(window).isEmpty(), qPrintable(cutTexts(window).join(" | ")));
            }
            // Every text went through the translation.
            for (auto* button : window.findChildren<QToolButton*>())
                if (button->isVisible() && button->text().size() > 3)
                    QVERIFY2(button->text().contains('~') || button->parentWidget()->parentWidget()->inherits("seedloom::app::SettingRow") ||
                                 button->parentWidget()->inherits("seedloom::app::SettingRow"),
                             qPrintable(button->text()));
        }
        QCoreApplication::removeTranslator(&language);
    }
};

int main(int argc, char** argv) { return runWindowTest<TestLooks>(argc, argv); }
#include "test_looks.moc"
