#include "app/data/DataDrawer.h"

#include "app/shell/Theme.h"

#include <QtWidgets/QButtonGroup>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QLabel>
#include <QtWidgets/QTableView>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

DataDrawer::DataDrawer(QWidget* parent)
    : QWidget(parent), model_(new GeometryModel(this)), table_(new QTableView(this)), title_(new QLabel(this)), empty_(new QLabel(this)), kinds_(new QButtonGroup(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(16, 6, 12, 6);
    head->setSpacing(4);
    title_->setFont(bodyFont(12, QFont::DemiBold));
    head->addWidget(title_);
    head->addSpacing(12);
    const std::pair<Element, QString> kinds[] = {{Element::point, tr("Points")}, {Element::corner, tr("Corners")}, {Element::face, tr("Faces")},
                                                 {Element::curve, tr("Curves")}, {Element::copy, tr("Copies")}, {Element::model, tr("Model")}};
    for (const auto& [element, text] : kinds) {
        auto* button = new QToolButton(this);
        button->setText(text);
        button->setCheckable(true);
        kinds_->addButton(button, int(element));
        head->addWidget(button);
    }
    kinds_->button(0)->setChecked(true);
    head->addStretch();
    column->addLayout(head);
    table_->setModel(model_);
    table_->setAlternatingRowColors(true);
    table_->setAccessibleName(tr("Attribute values"));
    // Fixed sizes: the view never asks a million rows for theirs.
    table_->verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    table_->verticalHeader()->setDefaultSectionSize(21);
    table_->horizontalHeader()->setDefaultSectionSize(96);
    table_->setWordWrap(false);
    column->addWidget(table_, 1);
    empty_->setAlignment(Qt::AlignCenter);
    empty_->setStyleSheet(QStringLiteral("color: %1;").arg(colours().faint.name()));
    column->addWidget(empty_, 1);
    connect(kinds_, &QButtonGroup::idClicked, this, [this](int id) {
        element_ = static_cast<Element>(id);
        refresh();
    });
}

void DataDrawer::show(const QString& nodeName, std::shared_ptr<const NodeOutcome> outcome) {
    title_->setText(nodeName);
    if (outcome == outcome_) return;
    outcome_ = std::move(outcome);
    refresh();
}

void DataDrawer::setElement(Element element) {
    kinds_->button(int(element))->click();
}

void DataDrawer::refresh() {
    model_->show(outcome_, element_);
    const QStringList names{tr("Points"), tr("Corners"), tr("Faces"), tr("Curves"), tr("Copies"), tr("Model")};
    for (int e = 0; e < kElementKinds; ++e) {
        const std::size_t n = outcome_ && e < 5 ? outcome_->geometry.count(static_cast<Element>(e)) : 0;
        kinds_->button(e)->setText(n > 0 ? tr("%1 %L2").arg(names[e]).arg(n) : names[e]);
    }
    const bool nothing = model_->rowCount() == 0 || model_->columnCount() == 0;
    table_->setVisible(!nothing);
    empty_->setVisible(nothing);
    empty_->setText(!outcome_ ? tr("Choose a node to see its numbers.")
                    : model_->rowCount() == 0 ? tr("There are none of these here.") : tr("These carry no attributes yet."));
}

}  // namespace seedloom::app
