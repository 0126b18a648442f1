// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_side_by_side.cpp.
#include "grid/select/side_by_side.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "grid/api/grid.h"

namespace jollyrow {
namespace {

constexpr int kRow = 26, kColumn = 150, kLeastWide = 420, kBorder = 60;

/// Lines on which not all records show the same.
int differing(const Table& table) {
    int lines = 0;
    for (std::size_t line = 0; line < table.rows; ++line) {
        const auto row = static_cast<SourceRow>(line);
        for (std::size_t i = 2; i < table.columns.size(); ++i)
            if (table.columns[i]->value(row) != table.columns[1]->value(row)) {
                ++lines;
                break;
            }
    }
    return lines;
}

}  // namespace

SideBySide::SideBySide(const SummaryTable& made, const Tokens& look, QWidget* parent)
    : FloatingCard(tr("%1 records side by side").arg(made.table->columns.size() - 1), look, parent),
      table_(new Grid(this)) {
    setObjectName(QStringLiteral("sideBySide"));
    table_->setAccessibleName(tr("Records side by side"));
    const QSize room = parent->size() - QSize(kBorder, 150);
    const int columns = static_cast<int>(made.table->columns.size()), lines = static_cast<int>(made.table->rows);
    table_->setFixedSize(std::clamp(columns * kColumn, std::min(kLeastWide, room.width()), std::max(200, room.width())),
                         std::clamp((lines + 2) * kRow, 4 * kRow, std::max(4 * kRow, room.height())));
    body().addWidget(table_);
    QLabel* facts = quietLabel(tr("%1 of %2 columns differ").arg(differing(*made.table)).arg(lines));
    facts->setObjectName(QStringLiteral("differing"));
    body().addWidget(facts);
    addStretch();
    connect(addButton(tr("Close"), Weight::Plain), &QPushButton::clicked, this, &SideBySide::close);
    if (auto opened = table_->open(made.design, made.table); !opened)
        facts->setText(QString::fromStdString(opened.error().message));
    setFocusProxy(table_);
}

}  // namespace jollyrow
