// SPDX-License-Identifier: MIT
#pragma once
// PickRows: the scrolled part of a pick list: one line a value with its check, name and count; dates as a tree of
// years, months and days. Paints what is in sight only, so a list of a million values opens at once.

#include <QAbstractScrollArea>

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "core/columns/time_zone.h"
#include "core/rows/pick_list.h"

namespace jollyrow {

struct Tokens;

class PickRows final : public QAbstractScrollArea {
    Q_OBJECT
  public:
    explicit PickRows(QWidget* parent);
    /// `words` writes a value as its column does. Values that `chosen` does not name are unchecked; null: all checked.
    void setList(std::shared_ptr<const PickList> list, std::function<std::string(const Value&)> words,
                 const PickList* chosen, const Tokens* look,
                 const TimeZone* zone);  ///< whose days instants fall on; null: the machine's
    /// Shows only values with this in them; case does not matter.
    void search(const QString& text);
    /// Checks or unchecks what is shown; the rest is as it was.
    void setShown(bool checked);
    bool isChecked(std::size_t entry) const { return checked_[entry]; }
    bool emptiesChecked() const { return empties_; }
    std::size_t checkedCount() const;
    std::int64_t checkedRecords() const;
    bool isEverythingChecked() const;
    const PickList* list() const { return list_.get(); }
    /// The line of a value or group by its words, for tests; -1 when it is not shown.
    int lineOf(const QString& words);
    QRect lineRect(int line) const;

  Q_SIGNALS:
    void changed();

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

  private:
    /// A line: a value, the empties, or a year or month over entries [first, end).
    struct Line {
        enum class Kind { One, Empties, Year, Month } kind = Kind::One;
        std::size_t first = 0, end = 0;
        int level = 0;
    };
    enum class Check { Off, Partly, On };
    void makeLines();
    Check checkOf(const Line& line) const;
    void toggle(int line);
    void fold(int line);
    bool isFolded(const Line& line) const;
    const Tokens& colours() const;
    void paintFold(QPainter& painter, const Line& line, const QPointF& c) const;
    void paintCheck(QPainter& painter, Check check, const QRectF& box) const;
    void paintWords(QPainter& painter, const Line& line, const QRect& row, int left) const;
    void paintLine(QPainter& painter, int at, const QRect& row) const;
    std::string wordsOf(const Line& line) const;
    std::int64_t countOf(const Line& line) const;
    const std::string& wordsOfEntry(std::size_t entry) const;
    int lineHeight() const;
    void syncBar();

    std::shared_ptr<const PickList> list_;
    std::function<std::string(const Value&)> words_;
    mutable std::vector<std::string> kept_;  ///< words by entry, "" = not written yet
    std::vector<bool> checked_;
    bool empties_ = true;
    bool isDay_ = false;
    const TimeZone* zone_ = &TimeZone::machine();
    std::string sought_;
    std::vector<Line> lines_;
    std::vector<std::pair<int, int>> opened_;  ///< years (month 0) and months whose parts are shown
    int current_ = 0;
    int hovered_ = -1;
    const Tokens* look_ = nullptr;
};

}  // namespace jollyrow
