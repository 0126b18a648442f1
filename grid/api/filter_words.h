// SPDX-License-Identifier: MIT
#pragma once
// FilterWords: a line above a grid that says in words which records it shows: each condition with a click to switch it
// off for a while and a cross to take it away, and how many of all are shown. Hidden while nothing is filtered.
//
//   auto* words = new jollyrow::FilterWords(grid);   // put above the grid in a layout
//
// What was taken away is brought back by "Earlier" (GridFilters::earlier()); Down opens its list. By keys, Left and
// Right go through conditions and what stands behind them, Space switches or presses, Delete takes a condition away.
// Each is an object of its own to assistive technology. Confined to the window's thread.

#include <QPointer>
#include <QWidget>

#include <vector>

#include "core/design/design.h"
#include "grid/access/painted_parts.h"

namespace jollyrow {

class Grid;

class FilterWords final : public QWidget, public PaintedParts {
    Q_OBJECT
  public:
    explicit FilterWords(Grid& grid, QWidget* parent = nullptr);
    /// What stands there, as one sentence; for assistive technology and tests.
    QString sentence() const;
    /// The middle of a condition's words, and of its cross; for tests.
    QPoint partAt(int index) const;
    QPoint crossAt(int index) const;
    /// True where the condition builder can be opened (the workbench): a click on "Add" asks for it.
    void setBuilderOffered(bool offered);
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }
    /// The conditions, each with its cross, then the links.
    int partCount() const override;
    PaintedPart part(int index) const override;
    void pressPart(int index) override;

  Q_SIGNALS:
    /// A person changed what is filtered here; `label` names the step.
    void edited(const QString& label);
    void builderWanted();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    bool event(QEvent* event) override;

  private:
    void paint(QPainter& painter);
    struct Part {
        QString words;
        bool on = true;
        QRect box, cross;
    };
    /// What stands behind the conditions, where it does.
    enum class Link { Add, Clear, Earlier };
    std::vector<Link> links() const;
    QRect boxOf(Link link) const;
    static QString wordsOf(Link link);
    void follow(Link link);
    /// Conditions, then links: what Left and Right go through.
    int stops() const { return static_cast<int>(parts_.size() + links().size()); }
    int lineHeight() const;
    int crossRoom() const;
    void refresh();
    QString lead() const;
    void relayout();
    void apply(std::vector<FilterDesign> filter, const QString& label);
    void toggle(int part);
    void remove(int part);
    void clear();
    void openEarlier(const QPoint& global);

    QPointer<Grid> grid_;
    std::vector<Part> parts_;
    QRect lead_, add_, clearBox_, earlierBox_;
    QString count_;
    int lines_ = 1;
    int hovered_ = -1, focused_ = -1;
    bool overCross_ = false;
    bool builder_ = false;
};

}  // namespace jollyrow
