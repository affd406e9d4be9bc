#include "app/shell/ReportDialog.h"

#include "app/look/Theme.h"
#include "app/widgets/TextArea.h"

#include <QtCore/QDir>
#include <QtCore/QSaveFile>
#include <QtCore/QSysInfo>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

ReportDialog::ReportDialog(const QString& facts, const QString& log, const QString& document, QWidget* parent)
    : QDialog(parent), facts_(facts), log_(log), document_(document), withDocument_(new QCheckBox(tr("Add the document itself"), this)),
      shown_(new TextArea(this)), problem_(new QLabel(this)) {
    setWindowTitle(tr("Report a problem"));
    resize(px(680), px(520));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(24, 20, 24, 16);
    column->setSpacing(10);
    auto* what = new QLabel(tr("This is all that the report holds. Read it, save it, and send it to whoever helps you; nothing is sent from here."), this);
    what->setWordWrap(true);
    column->addWidget(what);
    shown_->setReadOnly(true);
    shown_->setFont(numberFont(11));
    shown_->setLineWrapMode(QPlainTextEdit::NoWrap);
    shown_->setAccessibleName(tr("The report"));
    column->addWidget(shown_, 1);
    column->addWidget(withDocument_);
    problem_->setWordWrap(true);
    problem_->setStyleSheet(QStringLiteral("color: %1;").arg(colours().chosen.name()));
    problem_->hide();
    column->addWidget(problem_);
    auto* row = new QHBoxLayout;
    row->addStretch();
    auto* close = new QPushButton(tr("Close"), this);
    auto* save = new QPushButton(tr("Save the report …"), this);
    save->setDefault(true);
    row->addWidget(close);
    row->addWidget(save);
    column->addLayout(row);
    connect(close, &QPushButton::clicked, this, &QDialog::reject);
    connect(save, &QPushButton::clicked, this, &ReportDialog::saveAsked);
    connect(withDocument_, &QCheckBox::toggled, this, &ReportDialog::refresh);
    refresh();
}

QString ReportDialog::text() const { return shown_->toPlainText(); }

void ReportDialog::refresh() {
    QString text = QStringLiteral("Seed Loom %1\n%2, Qt %3\n\n%4\n\n%5\n%6")
                       .arg(QStringLiteral(SEEDLOOM_VERSION), QSysInfo::prettyProductName(), QString::fromLatin1(qVersion()), facts_, tr("Log:"),
                            log_.isEmpty() ? tr("(empty)") : log_);
    if (withDocument_->isChecked()) text += QStringLiteral("\n%1\n%2").arg(tr("Document:"), document_);
    // Whose computer it is concerns nobody who helps.
    if (const QString home = QDir::homePath(); home.size() > 1) text.replace(home, QStringLiteral("~"));
    shown_->setPlainText(text);
}

bool ReportDialog::saveTo(const QString& file) {
    QSaveFile out(file);
    const bool saved = out.open(QIODevice::WriteOnly) && out.write(text().toUtf8()) >= 0 && out.commit();
    problem_->setText(tr("Not saved: %1. Choose another folder.").arg(out.errorString()));
    problem_->setVisible(!saved);
    return saved;
}

void ReportDialog::saveAsked() {
    const QString file = QFileDialog::getSaveFileName(this, tr("Save the report"), QStringLiteral("seed-loom-report.txt"), tr("Texts (*.txt)"));
    if (!file.isEmpty() && saveTo(file)) accept();
}

}  // namespace seedloom::app
