// SPDX-License-Identifier: MIT
#pragma once
// LooksPopover: which look the grid has, drawn as tiles; a look of the builder's own is made from one of them and its
// colours are set with the grid showing them at once, in light and in dark. It can be kept in a file and taken from
// one.

#include "workbench/popovers/named_popover.h"

class QHBoxLayout;
class QGridLayout;

namespace jollyrow {

class Grid;
struct Tokens;

class LooksPopover final : public NamedPopover {
    Q_OBJECT
  public:
    LooksPopover(QWidget* window, const Design& design, Grid& grid);
    /// Sets a colour of the look that is worked on; false when it is none of the builder's own.
    bool setColour(const std::string& name, const std::string& colour);
    bool saveTo(const QString& path);
    bool loadFrom(const QString& path);

  protected:
    void fill(QVBoxLayout& list) override;
    std::size_t count(const Design& design) const override;

  private:
    LookDesign* own(Design& design) const;
    const LookDesign* own() const { return own(const_cast<Design&>(design_)); }
    void addTiles(QVBoxLayout& list);
    void addOwn(QVBoxLayout& list);
    void addHead(QHBoxLayout& row);
    void addColours(QGridLayout& to);
    void addFiles(QVBoxLayout& list);
    void choose(const std::string& name);
    void makeOwn();
    void pickColour(const std::string& name);
    void noteLegibility();
    Tokens tokensNow() const;

    Grid& grid_;
    bool isDark_ = false;  ///< the set that is worked on
    class QLabel* note_ = nullptr;
};

}  // namespace jollyrow
