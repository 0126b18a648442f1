// SPDX-License-Identifier: MIT
#pragma once
// HeadingControl: what headings do: sort, fold, select, be renamed and walked by keys. The way in is Up from the first
// record, the way out Down or Escape; on the headings arrows walk, Alt with arrows moves, Ctrl with arrows makes wider
// and narrower.

#include <QKeyEvent>
#include <QLineEdit>
#include <QPointer>

#include <functional>
#include <optional>
#include <vector>

#include "grid/inside/scroller.h"
#include "grid/paint/painters.h"

namespace jollyrow {

class HeadingControl final {
  public:
    struct Hooks {
        std::function<void(const HeadingHit&, const QPoint& global)> openMenu;
        std::function<void()> announceFocus;
    };
    HeadingControl(GridContext& context, const BodyGeometry& body, Scroller& scroller, const Painters& painters,
                   Hooks hooks)
        : context_(context), body_(body), scroller_(scroller), painters_(painters), hooks_(std::move(hooks)) {}

    /// Of the present plan and place; valid for the turn.
    HeadingLayout layout() const {
        return {context_.plan(), body_.columns(), painters_.headingHeights(), body_.scrollX()};
    }
    /// What is painted, but for something dragged.
    HeadingState state() const;

    /// Up, then down, then the bound order; with addKey the other keys stay.
    void sortBy(int column, bool addKey);
    /// Selects what is under a tier, or folds it.
    void clickTier(int tier, HeadingHit::Part part);
    void setFolded(const std::string& tier, bool folded);
    void hide(int column);
    /// An entry over the heading; what is typed is the heading when Enter is pressed or another place is clicked.
    void rename(const HeadingHit& hit);
    void makeTier(const std::vector<std::string>& fields);
    /// Tells of a tier that has just been made, and opens the entry for its heading.
    void nameNew(const QString& tier);

    void hover(const std::optional<HeadingHit>& hit);
    /// Where the keys are while they are on the headings.
    const std::optional<HeadingHit>& focus() const { return focus_; }
    void setFocus(std::optional<HeadingHit> hit);
    bool key(const QKeyEvent& event);
    /// After a layout: the keys are on no heading that is gone.
    void fit();

    /// What is dragged by this heading; one of several that are selected stands for all of them.
    DraggedHeading dragged(const HeadingHit& hit) const;
    Arranging arranging() const { return context_.isDesigning() ? Arranging::Design : Arranging::UserOnly; }

    /// The columns and tier being designed; columns selected by a click on their tier. True when they are other ones.
    bool setDesigned(const std::vector<QString>& fields, const std::optional<QString>& tier);
    const std::vector<QString>& designed() const { return designed_; }
    const std::vector<std::string>& chosen() const { return chosen_; }
    void clearChosen() { chosen_.clear(); }

  private:
    void markFiltered(HeadingState& state) const;
    void moveFocus(int across, int up);
    std::optional<HeadingHit> above(const HeadingHit& from, int up) const;
    void moveByKey(int step);
    QRect neighbourOf(const HeadingHit& hit, int step) const;
    void widen(int column, int step);
    void press(const HeadingHit& hit, int key, bool addKey);
    void takeName(const std::string& name, bool isTier, const QString& text);

    GridContext& context_;
    const BodyGeometry& body_;
    Scroller& scroller_;
    const Painters& painters_;
    Hooks hooks_;
    std::optional<HeadingHit> hovered_, focus_;
    std::vector<QString> designed_;
    std::optional<QString> designedTier_;
    std::vector<std::string> chosen_;
    QPointer<QLineEdit> nameEntry_;
};

}  // namespace jollyrow
