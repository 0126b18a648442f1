// SPDX-License-Identifier: MIT
#pragma once
// PictureView: the picture of a cell, larger, with what it is beneath it.

#include <QPointer>
#include <QWidget>

#include "grid/paint/tokens.h"
#include "grid/pictures/picture_shelf.h"

namespace jollyrow {

class PictureView final : public QWidget {
    Q_OBJECT
  public:
    static constexpr int kWidth = 300, kHeight = 210;
    /// Borrows the shelf.
    PictureView(PictureShelf& shelf, QWidget* parent);
    void setLook(const Tokens& look) { look_ = look; }
    void show(SourceRow row, FieldIndex field);
    /// There is none.
    void showNone();
    /// "JPEG, 1200 × 900, 214.3 kB", or why it cannot be seen.
    QString caption() const;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    ShownPicture now() const;
    PictureShelf& shelf_;
    Tokens look_;
    std::optional<std::pair<SourceRow, FieldIndex>> place_;
};

/// It rests beside a cell while the pointer is on it, like a tool tip.
class PictureCard final : public QWidget {
    Q_OBJECT
  public:
    PictureCard(PictureShelf& shelf, QWidget* parent);
    void showBeside(const QRect& cellOnScreen, SourceRow row, FieldIndex field, const Tokens& look);
    PictureView& view() { return *view_; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    PictureView* view_;
    Tokens look_;
};

}  // namespace jollyrow
