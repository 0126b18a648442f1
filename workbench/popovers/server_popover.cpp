// SPDX-License-Identifier: MIT
// Covered by tests/workbench/tst_server.cpp.
#include "workbench/popovers/server_popover.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "core/base/source_address.h"
#include "workbench/controls/controls.h"
#include "workbench/fittings/fitting_section.h"

namespace jollyrow {

ServerPopover::ServerPopover(QWidget* window, const QString& address)
    : Popover(tr("A database on a server"), window),
      entry_(new QLineEdit(address, this)),
      password_(new QLineEdit(this)),
      keeps_(new CheckBox(tr("Keep it in this desktop's secret store"), this)),
      problem_(problemLabel(this)) {
    entry_->setObjectName(QStringLiteral("serverAddress"));
    entry_->setAccessibleName(tr("Address"));
    entry_->setPlaceholderText(QStringLiteral("postgresql://user@host:5432/database"));
    body()->addWidget(entry_);
    auto* words = quietLabel(tr("What the address leaves out comes from where your other programs have it: the service "
                                "file, PGHOST and its like. A password is asked for when the server wants one; none "
                                "is kept in a design."),
                             this);
    words->setWordWrap(true);
    body()->addWidget(words);
    password_->setObjectName(QStringLiteral("serverPassword"));
    password_->setAccessibleName(tr("Password"));
    password_->setPlaceholderText(tr("Password"));
    password_->setEchoMode(QLineEdit::Password);
    keeps_->setObjectName(QStringLiteral("keepPassword"));
    body()->addWidget(password_);
    body()->addWidget(keeps_);
    body()->addWidget(problem_);
    password_->hide();
    keeps_->hide();
    auto* row = new QHBoxLayout;
    row->addStretch();
    auto* go = new QPushButton(tr("Connect"), this);
    go->setObjectName(QStringLiteral("connectServer"));
    go->setProperty("primary", true);
    row->addWidget(go);
    body()->addLayout(row);
    connect(go, &QPushButton::clicked, this, &ServerPopover::choose);
    for (QLineEdit* entry : {entry_, password_})
        connect(entry, &QLineEdit::returnPressed, this, &ServerPopover::choose);
    // Another server's password is another one.
    connect(entry_, &QLineEdit::textEdited, this, [this] {
        password_->clear();
        password_->hide();
        keeps_->hide();
        fitHeight();
    });
    entry_->setFocus();
}

void ServerPopover::choose() {
    const QString asked = entry_->text().trimmed();
    if (!isServerAddress(asked.toStdString()))
        return showProblem(tr("An address begins with postgresql://, then user, host and database."));
    showProblem({});
    Q_EMIT chosen({asked, password_->text(), keeps_->isChecked()});
}

void ServerPopover::showProblem(const QString& problem) {
    problem_->setText(problem);
    problem_->setVisible(!problem.isEmpty());
    fitHeight();
}

void ServerPopover::askPassword(const QString& said) {
    password_->show();
    keeps_->show();
    password_->setFocus();
    password_->selectAll();
    showProblem(said);
}

}  // namespace jollyrow
