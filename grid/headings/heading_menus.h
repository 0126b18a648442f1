// SPDX-License-Identifier: MIT
#pragma once
// HeadingMenus: the menu of a column's or tier's heading, and the list of all columns that it opens.

#include <QMenu>
#include <QPointer>

#include <functional>
#include <optional>
#include <string>

#include "grid/filter/filter_menus.h"
#include "grid/groups/group_menus.h"
#include "grid/headings/exact_fits.h"
#include "grid/headings/heading_control.h"

namespace jollyrow {

class HeadingMenus final {
  public:
    HeadingMenus(GridContext& context, const BodyGeometry& body, Scroller& scroller, HeadingControl& headings,
                 ExactFits& fits, FilterMenus& filters, GroupMenus& groups,
                 std::function<void(const QString& field)> focusFilter)
        : context_(context),
          body_(body),
          scroller_(scroller),
          headings_(headings),
          fits_(fits),
          filters_(filters),
          groups_(groups),
          focusFilter_(std::move(focusFilter)) {}

    void open(const HeadingHit& hit, const QPoint& global);
    void openColumnList();

  private:
    void fillColumn(QMenu& menu, int column);
    void addSorting(QMenu& menu, const std::string& field);
    void addLooks(QMenu& menu, int column);
    void addDesigning(QMenu& menu, int column);
    void fillTier(QMenu& menu, int tier);
    void fillCommon(QMenu& menu);
    void pinUpTo(int column, bool right);
    void unpin();
    void takeOutOfTier(const std::string& field);
    QAction* add(QMenu& menu, const QString& words, const std::function<void()>& act);
    void addSwitch(QMenu& menu, const QString& words, bool isOn, const std::function<void()>& turn);

    GridContext& context_;
    const BodyGeometry& body_;
    Scroller& scroller_;
    HeadingControl& headings_;
    ExactFits& fits_;
    FilterMenus& filters_;
    GroupMenus& groups_;
    std::function<void(const QString& field)> focusFilter_;
    QPointer<QWidget> columnList_;
};

}  // namespace jollyrow
