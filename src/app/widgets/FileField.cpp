#include "app/widgets/FileField.h"

#include "app/look/Texts.h"
#include "app/session/WrittenPath.h"
#include "meshes/MeshFile.h"

#include <QtWidgets/QFileDialog>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

FileField::FileField(const std::vector<std::string>& endings, QString folder, QWidget* parent)
    : QWidget(parent), folder_(std::move(folder)), field_(new QLineEdit(this)) {
    auto* line = new QHBoxLayout(this);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(5);
    field_->setPlaceholderText(tr("No file chosen"));
    connect(field_, &QLineEdit::editingFinished, this, [this] { take(field_->text()); });
    auto* choose = new QToolButton(this);
    choose->setText(tr("Choose …"));
    connect(choose, &QToolButton::clicked, this, [this, patterns = filePatterns(endings.empty() ? readableEndings() : endings)] { this->choose(patterns); });
    line->addWidget(field_, 1);
    line->addWidget(choose);
}

void FileField::setPath(const QString& path) {
    path_ = path;
    if (!field_->hasFocus()) field_->setText(path);
}

void FileField::choose(const QString& endings) {
    const QString file = QFileDialog::getOpenFileName(this, tr("Choose a file"), folder_, tr("Fitting files (%1)").arg(endings));
    if (file.isEmpty()) return;
    const QString path = writtenPath(file, folder_);
    field_->setText(path);
    take(path);
}

void FileField::take(const QString& path) {
    if (path == path_) return;
    path_ = path;
    Q_EMIT edited(path);
}

}  // namespace seedloom::app
