// SPDX-License-Identifier: MIT
#pragma once
// BannersPopover: which records are drawn as one heading across all columns, what it says and looks like, and whether
// it heads the records behind it. A card each; the first whose condition holds applies.

#include "workbench/popovers/named_popover.h"

class QHBoxLayout;

namespace jollyrow {

class Grid;

class BannersPopover final : public NamedPopover {
    Q_OBJECT
  public:
    BannersPopover(QWidget* window, const Design& design, Grid& grid);

  protected:
    void fill(QVBoxLayout& list) override;
    std::size_t count(const Design& design) const override;

  private:
    void addCard(QVBoxLayout& list, std::size_t index);
    void addCondition(QVBoxLayout& card, std::size_t index);
    void addCaption(QVBoxLayout& card, std::size_t index);
    void addLook(QHBoxLayout& row, std::size_t index);
    void addHeads(QHBoxLayout& row, std::size_t index);
    void change(std::size_t index, const std::function<void(BannerDesign&)>& act, const QString& label,
                bool anew = false);
    QString recordsMet(std::size_t index) const;

    Grid& grid_;
};

}  // namespace jollyrow
