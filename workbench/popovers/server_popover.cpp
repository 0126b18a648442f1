// SPDX-License-Identifier: MIT
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
      problem_(problemLabel(this)) {
    entry_->setObjectName(QStringLiteral("serverAddress"));
    entry_->setAccessibleName(tr("Address"));
    entry_->setPlaceholderText(QStringLiteral("postgresql://user@host:5432/database"));
    body()->addWidget(entry_);
    auto* words = quietLabel(tr("What the address leaves out comes from where your other programs have it: the service "
                                "file, PGHOST and its like. Passwords belong in ~/.pgpass or PGPASSWORD; none is kept "
                                "in a design."),
                             this);
    words->setWordWrap(true);
    body()->addWidget(words);
    body()->addWidget(problem_);
    auto* row = new QHBoxLayout;
    row->addStretch();
    auto* go = new QPushButton(tr("Connect"), this);
    go->setObjectName(QStringLiteral("connectServer"));
    go->setProperty("primary", true);
    row->addWidget(go);
    body()->addLayout(row);
    const auto choose = [this] {
        const QString asked = entry_->text().trimmed();
        if (!isServerAddress(asked.toStdString()))
            return showProblem(tr("An address begins with postgresql://, then user, host and database."));
        showProblem({});
        Q_EMIT chosen(asked);
    };
    connect(go, &QPushButton::clicked, this, choose);
    connect(entry_, &QLineEdit::returnPressed, this, choose);
    entry_->setFocus();
}

void ServerPopover::showProblem(const QString& problem) {
    problem_->setText(problem);
    problem_->setVisible(!problem.isEmpty());
    fitHeight();
}

}  // namespace jollyrow
