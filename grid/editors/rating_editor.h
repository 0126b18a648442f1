// SPDX-License-Identifier: MIT
#pragma once
// RatingEditor: a whole number from 0 to a few, set by a click on one of so many marks, by a digit, or by Left and
// Right.

#include "grid/editors/editor.h"

namespace jollyrow {

class RatingEditor final : public Editor {
    Q_OBJECT
  public:
    RatingEditor(const EditorTask& task, QWidget* parent);
    void begin(const EditedCell& cell) override;
    void beginWith(const QString& typed) override;
    void clear() override { set(std::nullopt); }
    QString typed() const override;
    bool isUnchanged() const override { return begun_ && *begun_ == now_; }
    Result<Entered> entered() const override;
    int leastWidth() const override;

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

  private:
    void take(int typed);
    void set(std::optional<int> rating);
    int at(double x) const;   ///< the rating of a place: 1 for the first mark; 0 left of it
    std::optional<int> now_;  ///< nothing: empty
    std::optional<std::optional<int>> begun_;
    std::optional<std::int64_t> outside_;  ///< what stood there, when no number of marks shows it
    int hovered_ = -1;
};

}  // namespace jollyrow
