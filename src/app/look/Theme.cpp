#include "app/look/Theme.h"

#include <QtCore/QFile>
#include <QtCore/QSettings>
#include <QtGui/QFontDatabase>
#include <QtGui/QPainter>
#include <QtSvg/QSvgRenderer>
#include <QtWidgets/QApplication>
#include <QtWidgets/QStyleFactory>

#include <cmath>

namespace seedloom::app {

namespace {

struct Appearance {
    ThemeName theme = ThemeName::linen;
    double scale = 1;
};
Appearance appearance;

Colours night() {
    Colours c;
    c.paper = {0x1A, 0x21, 0x2E};
    c.card = {0x22, 0x2B, 0x3A};
    c.field = {0x2D, 0x37, 0x49};
    c.ink = {0xEE, 0xE9, 0xDE};
    c.faint = {0xAD, 0xB3, 0xBC};
    c.line = {0x43, 0x4E, 0x63};
    c.chosen = {0xEF, 0x81, 0x6B};
    c.link = {0x9A, 0xB8, 0xEA};
    c.fresh = {0xA9, 0xC8, 0x7E};
    c.warning = {0xE6, 0xB6, 0x55};
    c.sand = {0x8A, 0x77, 0x4C};
    c.note = {0x4B, 0x43, 0x31};
    c.stageTop = {0x4A, 0x47, 0x41};
    c.stageFoot = {0x36, 0x34, 0x30};
    c.stageGrid = {0x6E, 0x69, 0x60};
    c.tints = {QColor(0x2E, 0x40, 0x5E), QColor(0x55, 0x36, 0x33), QColor(0x39, 0x48, 0x2F),
               QColor(0x50, 0x46, 0x2C), QColor(0x45, 0x39, 0x52), QColor(0x2B, 0x4A, 0x4A)};
    return c;
}

}  // namespace

const Colours& coloursOf(ThemeName theme) {
    static const Colours linen, dark = night();
    return theme == ThemeName::linen ? linen : dark;
}
const Colours& colours() { return coloursOf(appearance.theme); }
ThemeName currentTheme() { return appearance.theme; }
double textScale() { return appearance.scale; }
int px(int pixels) { return int(std::lround(pixels * appearance.scale)); }

QFont bodyFont(int pixels, QFont::Weight weight) {
    QFont font(QStringLiteral("Inter"));
    font.setPixelSize(px(pixels));
    font.setWeight(weight);
    return font;
}

QFont numberFont(int pixels) {
    QFont font(QStringLiteral("JetBrains Mono"));
    font.setPixelSize(px(pixels));
    font.setStyleHint(QFont::Monospace);
    return font;
}

QPixmap iconPixmap(const QString& name, int pixels, QColor colour, qreal ratio) {
    QFile file(QStringLiteral(":/icons/%1.svg").arg(name));
    if (!file.open(QIODevice::ReadOnly)) return {};
    QByteArray svg = file.readAll();
    svg.replace("currentColor", colour.name().toLatin1());
    QPixmap out(QSize(pixels, pixels) * ratio);
    out.setDevicePixelRatio(ratio);
    out.fill(Qt::transparent);
    QPainter painter(&out);
    QSvgRenderer(svg).render(&painter, QRectF(0, 0, pixels, pixels));
    return out;
}

QIcon icon(const QString& name, QColor colour) {
    if (!colour.isValid()) colour = colours().ink;
    QIcon out;
    for (int size : {16, 20, 24, 32, 48}) {
        out.addPixmap(iconPixmap(name, size, colour), QIcon::Normal);
        out.addPixmap(iconPixmap(name, size, colours().line.darker(110)), QIcon::Disabled);
    }
    return out;
}

namespace {

QString styleSheet() {
    const Colours& c = colours();
    QString sheet = QStringLiteral(R"(
        QWidget { color: @ink; }
        QMainWindow, QDialog { background: @paper; }
        QToolTip { background: @card; color: @ink; border: 1px solid @line; padding: 4px 6px; }
        QMenuBar { background: @paper; border-bottom: 1px solid @line; padding: 1px 4px; }
        QMenuBar::item { padding: 3px 9px; background: transparent; border-radius: 3px; }
        QMenuBar::item:selected { background: @field; }
        QMenu { background: @card; border: 1px solid @line; padding: 4px; }
        QMenu::item { padding: 5px 22px 5px 22px; border-radius: 3px; }
        QMenu::item:selected { background: @ink; color: @card; }
        QMenu::item:disabled { color: @faint; }
        QMenu::separator { height: 1px; background: @line; margin: 4px 8px; }
        QPushButton, QToolButton { background: @card; border: 1px solid @line; border-radius: 4px; padding: 4px 10px; }
        QToolButton { padding: 3px 6px; }
        QPushButton:hover, QToolButton:hover { border-color: @ink; }
        QPushButton:pressed, QToolButton:pressed { background: @field; }
        QPushButton:default { background: @chosen; border-color: @chosen; color: @card; }
        QPushButton:default:disabled { background: @field; }
        QPushButton:disabled, QToolButton:disabled { color: @faint; border-color: @line; }
        QPushButton:checked, QToolButton:checked { background: @ink; color: @card; border-color: @ink; }
        QPushButton:focus, QToolButton:focus, QComboBox:focus { border: 1px solid @link; }
        QLineEdit, QComboBox, QPlainTextEdit { background: @field; border: 1px solid @line; border-radius: 3px; padding: 2px 6px;
            selection-background-color: @link; selection-color: @card; }
        QLineEdit:focus, QPlainTextEdit:focus { background: @card; border: 1px solid @link; }
        QComboBox::drop-down { border: none; width: 16px; }
        QComboBox::down-arrow { image: url(@chevron); width: 11px; height: 11px; margin-right: 6px; }
        QComboBox QAbstractItemView { background: @card; border: 1px solid @line; selection-background-color: @ink; selection-color: @card; }
        QCheckBox::indicator { width: 15px; height: 15px; border: 1px solid @faint; border-radius: 3px; background: @card; }
        QCheckBox::indicator:checked { background: @ink; border-color: @ink; image: url(@check); }
        QCheckBox::indicator:focus { border-color: @link; }
        QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
        QScrollBar:vertical { background: transparent; width: 10px; margin: 0; }
        QScrollBar:horizontal { background: transparent; height: 10px; margin: 0; }
        QScrollBar::handle { background: @line; border-radius: 4px; min-height: 24px; min-width: 24px; margin: 1px; }
        QScrollBar::handle:hover { background: @faint; }
        QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page { background: none; border: none; height: 0; width: 0; }
        QSplitter::handle { background: @line; }
        QSplitter::handle:hover { background: @chosen; }
        QTableView { background: @card; alternate-background-color: @paper; gridline-color: @field; border: none;
            selection-background-color: @ink; selection-color: @card; }
        QHeaderView::section { background: @paper; color: @faint; border: none; border-right: 1px solid @line;
            border-bottom: 1px solid @line; padding: 3px 8px; }
        QTableCornerButton::section { background: @paper; border: none; }
        QLabel[role="faint"], QCheckBox[role="faint"] { color: @faint; font-size: @small; }
        QLabel[role="title"] { font-size: @title; font-weight: 600; }
        QLabel[role="section"] { color: @faint; font-size: @tiny; font-weight: 600; letter-spacing: 1px; }
        QLabel[role="warning"] { color: @warning; }
        QDialog QTabBar::tab { background: transparent; color: @faint; padding: 6px 14px; border: none; border-bottom: 2px solid transparent; }
        QDialog QTabBar::tab:selected { color: @ink; border-bottom: 2px solid @chosen; }
        QDialog QTabWidget::pane { border: none; border-top: 1px solid @line; }
        QListView { background: @card; border: none; outline: none; }
        QListView::item:selected { background: @ink; color: @card; }
    )");
    const std::pair<const char*, QColor> roles[] = {{"@paper", c.paper},   {"@card", c.card},   {"@field", c.field},
                                                    {"@ink", c.ink},       {"@faint", c.faint}, {"@line", c.line},
                                                    {"@chosen", c.chosen}, {"@link", c.link},   {"@warning", c.warning}};
    for (const auto& [role, colour] : roles) sheet.replace(QLatin1String(role), colour.name());
    const bool dark = currentTheme() == ThemeName::night;
    sheet.replace(QLatin1String("@check"), dark ? QStringLiteral(":/icons/check-night.svg") : QStringLiteral(":/icons/check.svg"));
    sheet.replace(QLatin1String("@chevron"), dark ? QStringLiteral(":/icons/chevron-night.svg") : QStringLiteral(":/icons/chevron.svg"));
    for (const auto& [role, size] : {std::pair{"@small", 11}, {"@tiny", 10}, {"@title", 14}})
        sheet.replace(QLatin1String(role), QStringLiteral("%1px").arg(px(size)));
    return sheet;
}

}  // namespace

namespace {

void dress(QApplication& application) {
    application.setFont(bodyFont());
    const Colours& c = colours();
    QPalette palette;
    palette.setColor(QPalette::Window, c.paper);
    palette.setColor(QPalette::Base, c.card);
    palette.setColor(QPalette::AlternateBase, c.paper);
    palette.setColor(QPalette::Text, c.ink);
    palette.setColor(QPalette::WindowText, c.ink);
    palette.setColor(QPalette::Button, c.card);
    palette.setColor(QPalette::ButtonText, c.ink);
    palette.setColor(QPalette::Highlight, c.link);
    palette.setColor(QPalette::HighlightedText, c.card);
    palette.setColor(QPalette::PlaceholderText, c.faint);
    application.setPalette(palette);
    application.setStyleSheet(styleSheet());
}

}  // namespace

void setAppearance(ThemeName theme, double scale) {
    appearance = {theme, std::clamp(scale, 0.8, 2.0)};
    QSettings settings;
    settings.setValue(QStringLiteral("theme"), theme == ThemeName::night ? QStringLiteral("night") : QStringLiteral("linen"));
    settings.setValue(QStringLiteral("textScale"), appearance.scale);
    if (auto* application = qobject_cast<QApplication*>(QCoreApplication::instance())) dress(*application);
}

void applyTheme(QApplication& application) {
    const QSettings settings;
    appearance.theme = settings.value(QStringLiteral("theme")).toString() == QLatin1String("night") ? ThemeName::night : ThemeName::linen;
    appearance.scale = std::clamp(settings.value(QStringLiteral("textScale"), 1.0).toDouble(), 0.8, 2.0);
    for (const char* file :
         {"Inter-Regular.otf", "Inter-Medium.otf", "Inter-SemiBold.otf", "Inter-Bold.otf", "JetBrainsMono-Regular.ttf", "JetBrainsMono-Medium.ttf"})
        QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/%1").arg(QLatin1String(file)));
    application.setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    dress(application);
}

}  // namespace seedloom::app
