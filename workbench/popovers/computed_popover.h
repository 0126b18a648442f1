// SPDX-License-Identifier: MIT
#pragma once
// ComputedPopover: a column that a rule computes: its heading, the name rules call it by, the rule, and what it gives
// for real records. A new one joins the grid as soon as its rule makes sense.

#include <optional>

#include "core/columns/schema.h"
#include "core/design/design.h"
#include "workbench/app/design_change.h"
#include "workbench/popovers/popover.h"

class QLineEdit;

namespace jollyrow {

class Grid;
class RuleEntry;
class RulePreview;

class ComputedPopover final : public Popover {
    Q_OBJECT
  public:
    /// `field`: the computed column to change; none for a new one, which will stand behind the column `behind`.
    ComputedPopover(QWidget* window, const Design& design, Grid& grid, const std::optional<std::string>& field,
                    const std::string& behind);
    void setDesign(const Design& design);
    RuleEntry& rule() { return *rule_; }
    RulePreview& preview() { return *preview_; }
    QLineEdit& heading() { return *heading_; }
    QLineEdit& name() { return *name_; }
    /// The field, once it is in the design.
    const std::optional<std::string>& field() const { return field_; }

  Q_SIGNALS:
    void changed(const jollyrow::DesignChange& change, const QString& label);
    void added(const QString& field);

  private:
    void addNames();
    void addRule();
    void addFoot();
    void showColumn(const ColumnDesign* column);
    void take();
    void showName();
    std::string freeName(const std::string& heading) const;
    TableSchema readable(const std::string& rule) const;

    Design design_;
    Grid& grid_;
    std::optional<std::string> field_;
    std::string behind_;
    QLineEdit* heading_;
    QLineEdit* name_;
    class QLabel* problem_;
    RuleEntry* rule_;
    RulePreview* preview_;
    bool nameIsTyped_ = false;
};

}  // namespace jollyrow
