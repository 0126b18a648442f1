// SPDX-License-Identifier: MIT
#pragma once
// DraftsBar: says that an earlier session ended before something was saved, and offers it again. Hidden until then.
//
//   layout->addWidget(new jollyrow::DraftsBar(grid));   // above the grid
//
// Confined to the window's thread. The grid must outlive it.

#include <QCoreApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "grid/api/grid.h"

namespace jollyrow {

class DraftsBar final : public QWidget {
  public:
    explicit DraftsBar(Grid& grid, QWidget* parent = nullptr) : QWidget(parent), words_(new QLabel(this)) {
        setObjectName(QStringLiteral("draftsBar"));
        auto* row = new QHBoxLayout(this);
        row->setContentsMargins(12, 6, 12, 6);
        row->setSpacing(8);
        row->addWidget(words_);
        add(*row, tr("Take it up"), QStringLiteral("takeUp"), [this, &grid] {
            grid.records().takeUpDrafts();
            hide();
        });
        add(*row, tr("Let it go"), QStringLiteral("letGo"), [this, &grid] {
            grid.records().dropDrafts();
            hide();
        });
        row->addStretch(1);
        hide();
        connect(&grid, &Grid::draftsLeft, this, [this](int records) {
            words_->setText(
                records == 1
                    ? tr("What was typed into 1 record was not saved when this was last closed.")
                    : tr("What was typed into %1 records was not saved when this was last closed.").arg(records));
            show();
        });
    }

  private:
    static QString tr(const char* text) { return QCoreApplication::translate("DraftsBar", text); }
    template <class Act>
    void add(QHBoxLayout& row, const QString& words, const QString& name, const Act& act) {
        auto* button = new QPushButton(words, this);
        button->setObjectName(name);
        connect(button, &QPushButton::clicked, this, act);
        row.addWidget(button);
    }
    QLabel* words_;
};

}  // namespace jollyrow
