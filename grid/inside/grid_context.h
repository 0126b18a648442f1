// SPDX-License-Identifier: MIT
#pragma once
// GridContext: what every part of the grid may ask (the design at work, its plan, the look) and the one way in which a
// part changes the design. Not installed, no promise.

#include <QString>
#include <QWidget>

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <utility>

#include "core/session/session.h"
#include "grid/api/grid.h"
#include "grid/editors/editor.h"
#include "grid/headings/heading_landing.h"
#include "grid/paint/tokens.h"

namespace jollyrow {

class GridContext final {
  public:
    /// `relayout` is called after the design was changed. Borrows both objects.
    GridContext(Grid& grid, Session& session, std::function<void()> relayout)
        : grid_(grid), session_(session), relayout_(std::move(relayout)) {}

    Grid& grid() const { return grid_; }
    QWidget& viewport() const { return *grid_.viewport(); }
    void update() const { grid_.viewport()->update(); }
    Session& session() const { return session_; }
    const Design& design() const { return session_.design(); }
    const ViewPlan& plan() const { return session_.plan(); }
    const TableSchema& schema() const { return session_.schema(); }
    const Snapshot& snapshot() const { return *session_.snapshot(); }
    const PlannedColumn& planned(int column) const { return plan().columns[static_cast<std::size_t>(column)]; }
    const PlannedTier& plannedTier(int tier) const { return plan().tiers[static_cast<std::size_t>(tier)]; }
    int tiers() const { return static_cast<int>(plan().tiers.size()); }
    std::optional<int> columnOf(const QString& field) const;
    std::optional<int> tierOf(const std::string& name) const;
    /// The object stays the same, for those who keep it.
    const Tokens& look() const { return look_; }
    /// After the design, the palette or the application's look has changed.
    void refreshLook();
    /// The record of a row of the snapshot.
    Record record(SourceRow row) const { return {session_.snapshot(), session_.refOf(row), session_.sharedPlan()}; }

    bool isDesigning() const { return designing_; }
    void setDesigning(bool designing) { designing_ = designing; }
    void setEditable(bool editable) { editable_ = editable; }
    bool isEditable() const { return editable_; }
    bool canEdit(int column) const { return editable_ && planned(column).editable; }

    /// An application's own editors, by field; they go before the ready ones.
    void setEditor(const std::string& field, EditorFactory factory) { editors_[field] = std::move(factory); }
    /// Owned by `parent`.
    Editor* makeEditor(const PlannedColumn& column, QWidget* parent) const;

    /// What was filtered by before the last change of the design.
    const std::vector<FilterDesign>& filterBefore() const { return filterBefore_; }
    void setFilterBefore(std::vector<FilterDesign> filter) { filterBefore_ = std::move(filter); }
    /// One step of the design: computed, laid out and told, with the name it has in an undo list.
    void changeDesign(Design design, const QString& label) const;
    /// The same for one column; %1 of the label is its heading.
    template <class Change>
    void changeColumn(const std::string& field, const QString& label, const Change& change) const {
        Design next = design();
        if (ColumnDesign* column = next.column(field)) change(*column);
        changeDesign(std::move(next), label.arg(headingOfField(design(), field)));
    }
    void relayout() const { relayout_(); }
    /// Says what went wrong where the application listens.
    void say(const QString& message) const { Q_EMIT grid_.failed(message); }

  private:
    Grid& grid_;
    Session& session_;
    std::function<void()> relayout_;
    std::map<std::string, EditorFactory> editors_;
    Tokens look_ = tokens(Theme::Light);
    mutable std::vector<FilterDesign> filterBefore_;
    bool designing_ = false, editable_ = true;
};

}  // namespace jollyrow
