// SPDX-License-Identifier: MIT
#pragma once
// RulePreview: some real records with what a rule reads of them and the value it gives.

#include <QWidget>

#include <memory>

#include "core/rules/program.h"
#include "grid/api/grid.h"

namespace jollyrow {

class RulePreview final : public QWidget {
    Q_OBJECT
  public:
    RulePreview(Grid& grid, QWidget* parent);
    /// Null while the rule is not sound: the last one stays, pale.
    void setProgram(std::shared_ptr<const Program> program);
    /// Other records than those shown.
    void chooseOthers();
    /// The value of the nth record, as it is painted; for tests.
    QString valueAt(int n) const;
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void paint(QPainter& painter);
    std::vector<SourceRow> records() const;
    QString valueOf(SourceRow row, bool* failed) const;
    QString headingOf(FieldIndex field) const;
    QString textOf(SourceRow row, FieldIndex field) const;

    Grid& grid_;
    std::shared_ptr<const Program> program_;
    bool isCurrent_ = false;
    unsigned turn_ = 0;
};

}  // namespace jollyrow
