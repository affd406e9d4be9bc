#include "app/weave/QuickAddRanking.h"

#include "app/look/Texts.h"
#include "operators/Catalogue.h"

namespace seedloom::app {

namespace {

/// True where one letter more, less, other, or two swapped make one word of the other's start.
bool nearlyStarts(const QString& text, const QString& word) {
    if (word.size() < 4) return false;
    const QString start = text.left(word.size() + 1);
    // Distances of the word to every prefix of `start` (Damerau–Levenshtein, optimal string alignment).
    const int n = int(word.size()), m = int(start.size());
    std::vector<std::vector<int>> d(std::size_t(n + 1), std::vector<int>(std::size_t(m + 1)));
    for (int i = 0; i <= n; ++i)
        for (int j = 0; j <= m; ++j) {
            int& at = d[std::size_t(i)][std::size_t(j)];
            if (i == 0 || j == 0) {
                at = i + j;
                continue;
            }
            const auto old = [&](int a, int b) { return d[std::size_t(i - a)][std::size_t(j - b)]; };
            at = std::min({old(1, 0) + 1, old(0, 1) + 1, old(1, 1) + (word[i - 1] == start[j - 1] ? 0 : 1)});
            if (i > 1 && j > 1 && word[i - 1] == start[j - 2] && word[i - 2] == start[j - 1]) at = std::min(at, old(2, 2) + 1);
        }
    for (int j = std::max(0, n - 1); j <= m; ++j)
        if (d[std::size_t(n)][std::size_t(j)] <= 1) return true;
    return false;
}

/// How well a typed word fits: 0 is not at all.
int fit(const OperatorSpec& spec, const QString& word) {
    const QString label = catalogueText(spec.label).toLower();
    if (label.startsWith(word)) return 100;
    for (const QString& part : label.split(QLatin1Char(' ')))
        if (part.startsWith(word)) return 80;
    // A declaration names the closest synonyms first.
    int best = 0, later = 0;
    for (const std::string& synonym : spec.synonyms) {
        const QString text = catalogueText(synonym).toLower();
        if (text.startsWith(word)) best = std::max(best, 60 - later);
        else if (text.contains(word)) best = std::max(best, 40 - later);
        later = std::min(later + 1, 9);
    }
    if (best > 0) return best;
    if (word.size() > 2 && catalogueText(spec.sentence).toLower().contains(word)) return 20;
    if (label.contains(word)) return 15;
    if (nearlyStarts(label, word)) return 12;
    for (const std::string& synonym : spec.synonyms)
        if (nearlyStarts(catalogueText(synonym).toLower(), word)) return 8;
    return 0;
}

}  // namespace

std::vector<const OperatorSpec*> operatorsFor(const QString& typed, const QuickAddContext& context) {
    const QStringList words = typed.toLower().split(QLatin1Char(' '), Qt::SkipEmptyParts);
    std::vector<std::pair<int, const OperatorSpec*>> found;
    for (const OperatorSpec& spec : catalogue()) {
        const bool fits = !context.flow || takes(spec, *context.flow);
        if (context.onlyFitting && (spec.inputs.empty() || !fits)) continue;
        int total = 0;
        bool all = true;
        for (const QString& word : words) {
            const int points = fit(spec, word);
            all &= points > 0;
            total += points;
        }
        if (!all) continue;
        // Words decide; fit and habit order what the words leave open.
        if (context.flow && fits) total += words.isEmpty() ? 30 : 10;
        if (const auto at = context.recent.indexOf(QString::fromStdString(spec.id)); at >= 0) total += std::max<int>(1, 9 - int(at));
        found.push_back({total, &spec});
    }
    std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<const OperatorSpec*> out;
    for (const auto& [points, spec] : found) out.push_back(spec);
    return out;
}

}  // namespace seedloom::app
