#include "app/data/CheckupDrawer.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/SwapPage.h"
#include "geometry/Bake.h"
#include "geometry/Measures.h"
#include "operators/Catalogue.h"
#include "scatter/CopyCheckup.h"

#include <QtWidgets/QGridLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

CheckupReport reportOf(const Geometry& geometry, bool intersections) {
    CheckupReport out;
    const std::optional<Geometry> baked = bakesEasily(geometry) ? std::optional(bakeCopies(geometry)) : std::nullopt;
    out.facts = baked ? checkupOf(*baked) : checkupUnbaked(geometry, RunContext());
    if (geometry.copyCount() == 0) out.pieces = pieceFigures(geometry);
    out.findings = out.pieces ? findingsOfPieces(geometry, *out.pieces, intersections) : findingsWithCopies(geometry, intersections, RunContext());
    if (out.pieces) {
        const auto doubled = std::find_if(out.findings.begin(), out.findings.end(), [](const Finding& f) { return f.code == "doubled_points"; });
        out.facts.doubledPoints = doubled == out.findings.end() ? 0 : doubled->count;
    }
    out.copies = geometry.copyCount();
    out.intersectionsChecked = intersections;
    if (baked) out.wall = wallThickness(*baked);
    out.size = boundsOf(geometry).size();
    return out;
}

constexpr int kNarrow = 620;

QString length(double metres) {
    if (metres < 0.01) return CheckupDrawer::tr("%1 mm").arg(shownNumber(metres * 1000, 'g', 3));
    if (metres < 1) return CheckupDrawer::tr("%1 cm").arg(shownNumber(metres * 100, 'g', 3));
    return CheckupDrawer::tr("%1 m").arg(shownNumber(metres, 'g', 4));
}

/// Rounded up to one digit: what a person would type.
double oneDigit(double value) {
    const double digit = std::pow(10, std::floor(std::log10(value)));
    return std::ceil(value / digit) * digit;
}

}  // namespace

CheckupDrawer::CheckupDrawer(QWidget* parent) : QScrollArea(parent) {
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setAccessibleName(tr("Checkup"));
    setAccessibleDescription(tr("What keeps the chosen node's result from being a sound solid, where it is, and what helps."));
    fill();
}

CheckupDrawer::~CheckupDrawer() = default;

void CheckupDrawer::resizeEvent(QResizeEvent* event) {
    QScrollArea::resizeEvent(event);
    // Not from within the layout that is under way.
    if (narrow_ != (viewport()->width() < px(kNarrow))) QMetaObject::invokeMethod(this, &CheckupDrawer::fill, Qt::QueuedConnection);
}

void CheckupDrawer::show(const QString& nodeName, std::shared_ptr<const NodeOutcome> outcome) {
    const bool same = outcome == outcome_ && name_ == nodeName;
    name_ = nodeName;
    outcome_ = std::move(outcome);
    if (!same) start(false);
}

void CheckupDrawer::start(bool all) {
    ++generation_;
    if (!outcome_) {
        report_ = {};
        busy_ = false;
        return fill();
    }
    busy_ = true;
    background_.clear();
    background_.start([this, generation = generation_, outcome = outcome_, all]() -> Background::Then {
        auto report = reportOf(outcome->geometry, all || outcome->geometry.faceCount() <= kMostFacesUnasked);
        return [this, generation, report = std::move(report)] {
            if (generation != generation_) return;
            report_ = report;
            busy_ = false;
            fill();
        };
    });
}

QString CheckupDrawer::sizeText(double size, bool closed) {
    if (!closed) return size < 0.01 ? tr("%1 cm²").arg(shownNumber(size * 1e4, 'g', 3)) : tr("%1 m²").arg(shownNumber(size, 'g', 3));
    const double whole = std::abs(size);
    return whole < 1e-6 ? tr("%1 mm³").arg(shownNumber(size * 1e9, 'g', 3))
         : whole < 0.01 ? tr("%1 cm³").arg(shownNumber(size * 1e6, 'g', 3))
                        : tr("%1 m³").arg(shownNumber(size, 'g', 4));
}

std::vector<NoticeFix> CheckupDrawer::fixesFor(const std::string& code, const CheckupReport& report) {
    const auto add = [](const char* op, std::map<std::string, Json> settings = {}) {
        return addFix(tr("Add %1").arg(catalogueText(findOperator(op)->label)).toStdString(), op, std::move(settings));
    };
    if (code == "doubled_points" || code == "degenerate_faces") return {add("weld")};
    if (code == "open_edges") return {add("fill_holes"), add("thicken")};
    if (code == "inside_out" || code == "winding") return {add("orient")};
    if (code == "nonmanifold_edges" || code == "nonmanifold_points" || code == "self_intersections") return {add("voxel_remesh")};
    if (code == "shading_breaks") return {add("remesh")};
    if (code == "overlapping_copies") return {add("thin_out", {{"by", "meshes"}})};
    if (code == "doubled_copies") return {add("thin_out", {{"by", "bounds"}})};
    if (code == "slivers" && report.pieces) return {add("remove_pieces", {{"chance", 0}, {"smaller_than", oneDigit(report.pieces->sliver)}})};
    if (code == "non_finite_points") return {add("delete", {{"of", "points"}, {"where", {{"formula", "any(isnan(position)) || any(isinf(position))"}}}})};
    return {};
}

QString CheckupDrawer::textFor(const Finding& finding) {
    const int n = int(std::min<std::size_t>(finding.count, std::size_t(std::numeric_limits<int>::max())));
    if (finding.code == "open_edges") return tr("%n open edge(s): the surface has a border", nullptr, n);
    if (finding.code == "nonmanifold_edges") return tr("%n edge(s) where more than two faces meet", nullptr, n);
    if (finding.code == "nonmanifold_points") return tr("%n point(s) where parts only touch", nullptr, n);
    if (finding.code == "winding") return tr("%n edge(s) between faces that are turned against each other", nullptr, n);
    if (finding.code == "degenerate_faces") return tr("%n face(s) without area", nullptr, n);
    if (finding.code == "doubled_points") return tr("%n point(s) on top of another", nullptr, n);
    if (finding.code == "non_finite_points") return tr("%n point(s) whose place is not a number", nullptr, n);
    if (finding.code == "overlapping_copies") return tr("%n pair(s) of copies stand in each other", nullptr, n);
    if (finding.code == "doubled_copies") return tr("%n copy(s) on top of another", nullptr, n);
    if (finding.code == "touching_pieces") return tr("%n pair(s) of pieces touch or stand in each other, which is fine where they are meant to", nullptr, n);
    if (finding.code == "shading_breaks") return tr("Shading breaks at %n long thin face(s) across a smooth surface", nullptr, n);
    if (finding.code == "slivers") return tr("%n piece(s) smaller than a thousandth of most", nullptr, n);
    if (finding.code == "inside_out") return tr("The solid is inside out");
    return tr("%n pair(s) of faces that cut through each other", nullptr, n);
}

void CheckupDrawer::fill() {
    auto* page = new QWidget;
    // Figures stand beside what was found, or below it where there is no room.
    narrow_ = viewport()->width() < px(kNarrow);
    auto* across = new QBoxLayout(narrow_ ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight, page);
    across->setContentsMargins(16, 10, 16, 10);
    across->setSpacing(px(24));
    auto* found = new QVBoxLayout;
    found->setSpacing(6);
    auto* title = new QLabel(name_.isEmpty() ? tr("Checkup") : tr("Checkup of %1").arg(name_), page);
    title->setProperty("role", "title");
    found->addWidget(title);
    const bool faces = outcome_ && report_.facts.area > 0;
    const auto faults = std::count_if(report_.findings.begin(), report_.findings.end(), [](const Finding& f) { return f.fault(); });
    const bool sound = faces && report_.facts.sound() && faults == 0;
    const auto line = [&](const QString& text, const QColor& colour) {
        auto* label = new QLabel(text, page);
        label->setStyleSheet(QStringLiteral("color: %1;").arg(colour.name()));
        label->setWordWrap(true);
        found->addWidget(label);
    };
    if (!outcome_) line(tr("Choose a node to have its result looked at."), colours().faint);
    else if (busy_) line(tr("Looking …"), colours().faint);
    else if (!faces) line(tr("There are no faces here, so there is nothing that could be unsound."), colours().faint);
    else if (sound)
        line(report_.intersectionsChecked ? tr("Sound: closed, even winding, nothing doubled, nothing cut through.")
                                          : tr("Sound as far as looked: closed, even winding, nothing doubled."),
             colours().fresh);
    for (const Finding& finding : report_.findings) {
        auto* row = new QHBoxLayout;
        row->setSpacing(8);
        auto* text = new QLabel(textFor(finding), page);
        text->setWordWrap(true);
        text->setMinimumWidth(px(120));
        if (!finding.fault()) text->setProperty("role", "faint");
        row->addWidget(text, 1);
        auto* show = new QPushButton(tr("Show"), page);
        show->setToolTip(tr("Mark these on the stage and frame them"));
        show->setAccessibleName(tr("Show: %1").arg(textFor(finding)));
        connect(show, &QPushButton::clicked, this, [this, finding] { Q_EMIT showWanted(finding); });
        row->addWidget(show);
        for (const NoticeFix& fix : fixesFor(finding.code, report_)) {
            auto* add = new QPushButton(QString::fromStdString(fix.label), page);
            add->setToolTip(catalogueText(findOperator(fix.op)->sentence));
            connect(add, &QPushButton::clicked, this, [this, fix] { Q_EMIT fixWanted(fix); });
            row->addWidget(add);
        }
        found->addLayout(row);
    }
    if (faces && !busy_ && !report_.intersectionsChecked) {
        auto* ask = new QPushButton(tr("Look for faces that cut through each other"), page);
        ask->setToolTip(tr("Not done by itself on large models; may take a few seconds"));
        connect(ask, &QPushButton::clicked, this, [this] { start(true); });
        found->addWidget(ask, 0, Qt::AlignLeft);
    }
    found->addStretch();
    across->addLayout(found, 1);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(px(14));
    grid->setVerticalSpacing(4);
    int at = 0;
    const auto fact = [&](const QString& name, const QString& value) {
        auto* label = new QLabel(name, page);
        label->setProperty("role", "faint");
        auto* number = new QLabel(value, page);
        number->setFont(numberFont(12));
        number->setAlignment(Qt::AlignRight);
        number->setTextInteractionFlags(Qt::TextSelectableByMouse);
        grid->addWidget(label, at, 0);
        grid->addWidget(number, at++, 1);
    };
    if (outcome_ && !busy_) {
        const Vec3 s = report_.size;
        fact(tr("size"),
             tr("%1 × %2 × %3 m").arg(shownNumber(double(s.x), 'g', 4)).arg(shownNumber(double(s.y), 'g', 4)).arg(shownNumber(double(s.z), 'g', 4)));
        if (faces) fact(tr("area"), tr("%1 m²").arg(shownNumber(report_.facts.area, 'g', 4)));
        if (report_.copies > 0) fact(tr("copies"), countText(report_.copies));
        if (report_.facts.closed) fact(tr("volume"), sizeText(report_.facts.volume, true));
        if (report_.pieces) {
            fact(tr("pieces"), countText(report_.pieces->count));
            fact(tr("smallest"), sizeText(report_.pieces->smallest, report_.pieces->closed));
            fact(tr("median"), sizeText(report_.pieces->median, report_.pieces->closed));
            fact(tr("largest"), sizeText(report_.pieces->largest, report_.pieces->closed));
        }
        if (report_.wall) {
            fact(tr("walls at least"), length(report_.wall->least));
            fact(tr("walls on average"), length(report_.wall->mean));
        }
    }
    grid->setRowStretch(at, 1);
    across->addLayout(grid);
    swapPage(this, page);
    Q_EMIT verdictChanged(!outcome_ || !faces || busy_ ? QString() : sound ? tr("sound") : QString::number(faults), sound);
}

}  // namespace seedloom::app
