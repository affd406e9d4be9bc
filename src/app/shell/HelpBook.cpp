#include "app/shell/HelpBook.h"

#include <QtCore/QFile>
#include <QtCore/QFileInfo>
#include <QtCore/QRegularExpression>

#include <algorithm>

namespace seedloom::app {

namespace {

constexpr const char* kFiles[] = {"guide/README.md",     "guide/window.md",     "guide/weave.md",   "guide/stage.md",      "guide/settings.md",
                                  "guide/attributes.md", "guide/making.md",     "guide/curves.md",  "guide/surfaces.md",   "guide/deforming.md",
                                  "guide/scattering.md", "guide/breaking.md",   "guide/falling.md", "guide/flow.md",       "guide/drawers.md",
                                  "guide/documents.md",  "guide/publishing.md", "guide/library.md", "guide/variations.md", "guide/farms.md",
                                  "file-format.md",      "command-line.md",     "glossary.md"};

QString helpText(const QString& file) {
    QFile in(QStringLiteral(":/help/") + file);
    return in.open(QIODevice::ReadOnly) ? QString::fromUtf8(in.readAll()) : QString();
}

/// Lines that are pictures of the interface go: what they show is before the reader's eyes.
QString withoutPictures(const QString& text) {
    QStringList kept;
    for (const QString& line : text.split(QLatin1Char('\n')))
        if (!line.trimmed().startsWith(QStringLiteral("!["))) kept << line;
    return kept.join(QLatin1Char('\n'));
}

QString plainHeading(QString heading) { return heading.remove(QLatin1Char('#')).remove(QLatin1Char('`')).trimmed(); }

bool holdsAll(const QString& text, const QStringList& words) {
    return std::all_of(words.begin(), words.end(), [&](const QString& word) { return text.contains(word, Qt::CaseInsensitive); });
}

}  // namespace

const HelpBook& HelpBook::common() {
    static const HelpBook book;
    return book;
}

HelpBook::HelpBook() {
    for (const char* file : kFiles) addFile(QLatin1String(file));
    addOperators();
}

void HelpBook::addFile(const QString& file) {
    const QString text = withoutPictures(helpText(file));
    if (text.isEmpty()) return;
    const QString base = QFileInfo(file).completeBaseName();
    pages_.push_back({base == QLatin1String("README") ? QStringLiteral("guide") : base, plainHeading(text.section(QLatin1Char('\n'), 0, 0)), text});
}

/// The reference has a heading "### Bend (`bend`)" for each.
void HelpBook::addOperators() {
    static const QRegularExpression heading(QStringLiteral("^### (.+) \\(`([a-z0-9_]+)`\\)$"), QRegularExpression::MultilineOption);
    const QString all = helpText(QStringLiteral("operators.md"));
    auto found = heading.globalMatch(all);
    // A page that lists them comes first.
    const std::size_t list = pages_.size();
    pages_.push_back({QStringLiteral("operators"), QStringLiteral("Operators"), all.section(QStringLiteral("\n## "), 0, 0)});
    while (found.hasNext()) {
        const auto match = found.next();
        const auto from = match.capturedEnd();
        const auto next = all.indexOf(QRegularExpression(QStringLiteral("^##+ "), QRegularExpression::MultilineOption), from);
        pages_.push_back({QStringLiteral("operator:") + match.captured(2), match.captured(1),
                          QStringLiteral("# %1\n%2").arg(match.captured(1), all.mid(from, next < 0 ? -1 : next - from))});
        pages_[list].text += QStringLiteral("\n- [%1](%2)").arg(pages_.back().title, pages_.back().id);
    }
}

const HelpPage* HelpBook::page(const QString& id) const {
    const auto it = std::find_if(pages_.begin(), pages_.end(), [&](const HelpPage& p) { return p.id == id; });
    return it == pages_.end() ? nullptr : &*it;
}

std::vector<HelpHit> HelpBook::find(const QString& typed) const {
    const QStringList words = typed.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    std::vector<HelpHit> byTitle, byHeading, byText;
    if (words.isEmpty()) return {};
    for (const HelpPage& page : pages_) {
        if (holdsAll(page.title, words)) byTitle.push_back({page.id, page.title, {}});
        QString heading, part;
        const auto take = [&] {
            if (!heading.isEmpty() && holdsAll(heading, words)) byHeading.push_back({page.id, page.title, heading});
            else if (holdsAll(part, words) && !(heading.isEmpty() && holdsAll(page.title, words))) byText.push_back({page.id, page.title, heading});
        };
        for (const QString& line : page.text.split(QLatin1Char('\n'))) {
            if (!line.startsWith(QStringLiteral("##"))) {
                part += line + QLatin1Char('\n');
                continue;
            }
            take();
            heading = plainHeading(line);
            part.clear();
        }
        take();
    }
    byTitle.insert(byTitle.end(), byHeading.begin(), byHeading.end());
    byTitle.insert(byTitle.end(), byText.begin(), byText.end());
    return byTitle;
}

QString HelpBook::target(const QString& link) const {
    if (page(link)) return link;
    const QString base = QFileInfo(link.section(QLatin1Char('#'), 0, 0)).completeBaseName();
    const QString id = base == QLatin1String("README") ? QStringLiteral("guide") : base;
    return page(id) ? id : QString();
}

}  // namespace seedloom::app
