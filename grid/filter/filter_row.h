// SPDX-License-Identifier: MIT
#pragma once
// FilterRow: the entries under the headings, one a column, in which conditions are typed. It knows no rule: what is
// typed goes out as it stands, and what the cells show comes in. One line edit moves to the cell that has the focus.

#include <QLineEdit>
#include <QWidget>

#include <optional>
#include <vector>

namespace jollyrow {

struct Tokens;

/// What one cell shows.
struct FilterCell {
    QString field;
    QString heading;          ///< for assistive technology
    int left = 0, width = 0;  ///< pixels of the row; width 0 = out of sight
    QString text;             ///< the condition as typed, or in words
    QString mark;             ///< of the operator a bare value means
    QString problem;          ///< why what is typed cannot be used
    bool filtered = false;
    bool on = true;     ///< the condition is not switched off
    bool typed = true;  ///< the text can be typed on; else it stands for a condition made otherwise
};

class FilterRow final : public QWidget {
    Q_OBJECT
  public:
    explicit FilterRow(QWidget* viewport);
    static int heightFor(const QFont& font);
    void setCells(std::vector<FilterCell> cells);
    void setLook(const Tokens* look);
    /// Puts the keys into a cell; false when it is not in sight.
    bool focusCell(const QString& field);
    std::optional<QString> focusedField() const { return focused_; }
    /// In viewport coordinates.
    QRect cellRect(const QString& field) const;
    const std::vector<FilterCell>& cells() const { return cells_; }
    QLineEdit* entry() const { return entry_; }

  Q_SIGNALS:
    void typed(const QString& field, const QString& text);
    void menuWanted(const QString& field, const QPoint& global);
    void pickWanted(const QString& field);
    /// Tab past the ends wants another column in sight; step is -1 or 1.
    void neighbourWanted(const QString& field, int step);
    void left(bool upwards);
    void rowMenuWanted(const QPoint& global);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;
    bool event(QEvent* event) override;

  private:
    void paint(QPainter& painter);
    const FilterCell* find(const QString& field) const;
    const FilterCell* cellAt(int x) const;
    QRect boxOf(const FilterCell& cell) const;
    QRect crossOf(const FilterCell& cell) const;
    void pressed(const FilterCell& cell, const QPoint& at);
    void placeEntry();
    void endEntry();
    bool entryKey(class QKeyEvent& event);

    std::vector<FilterCell> cells_;
    QLineEdit* entry_;
    std::optional<QString> focused_, hovered_;
    const Tokens* look_ = nullptr;
};

}  // namespace jollyrow
