// SPDX-License-Identifier: MIT
#pragma once
// FilterPopover: what is filtered, as a tree of conditions that can be built and as one rule that can be typed; each
// follows the other. Opens from the Filter station.

#include "core/design/condition.h"
#include "core/session/session.h"
#include "workbench/app/design_change.h"
#include "workbench/popovers/popover.h"

class QLineEdit;

namespace jollyrow {

class RuleEntry;
class CheckBox;

class FilterPopover final : public Popover {
    Q_OBJECT
  public:
    FilterPopover(QWidget* window, const Design& design, Session& session);
    void setDesign(const Design& design);
    RuleEntry& rule() { return *rule_; }
    /// How many records the present filter leaves; after each new snapshot.
    void showCount();

  Q_SIGNALS:
    void changed(const jollyrow::DesignChange& change, const QString& label);
    void bypassed(bool on);

  private:
    /// The place of a condition: child numbers from the root.
    using Path = std::vector<std::size_t>;
    Condition* at(const Path& path);
    void rebuild();
    void addGroup(class QVBoxLayout& into, const Path& path, int depth);
    void addTest(class QVBoxLayout& into, const Path& path, int depth);
    void addField(class QHBoxLayout& row, const Path& path, const Condition& c);
    void addTestPick(class QHBoxLayout& row, const Path& path, const Condition& c);
    void addPeriod(class QHBoxLayout& row, const Path& path, const Condition& c);
    void addValues(class QHBoxLayout& row, const Path& path, const Condition& c);
    void addOtherField(class QHBoxLayout& row, const Path& path, const Condition& c);
    void addValue(class QHBoxLayout& row, const Path& path, const Condition& c, std::size_t index);
    void addTakeAway(class QHBoxLayout& row, const Path& path);
    void takeTyped(QLineEdit& entry, const Path& path, std::size_t index);
    Type typeOf(const std::string& field) const;
    /// Changes one condition once the handler that asked is over.
    void changeAt(const Path& path, std::function<void(Condition&)> act);
    void addButtons(class QHBoxLayout& into, const Path& path, int depth);
    void take(const QString& label);
    void later(std::function<void()> act);
    void showSentence();
    Condition newTest() const;
    std::vector<std::string> fieldsOffered() const;
    QString headingOf(const std::string& field) const;

    Design design_;
    Session& session_;
    Condition root_;
    QWidget* tree_ = nullptr;
    RuleEntry* rule_;
    class QLabel* sentence_;
    bool taking_ = false;
};

}  // namespace jollyrow
