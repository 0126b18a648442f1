// SPDX-License-Identifier: MIT
#pragma once
// OrderChips: things in an order of the builder's own, one after the other, over as many lines as they need. A chip is
// dragged to its place or moved by Alt and arrows, and taken out by its cross or Delete; one of them may be chosen.

#include <QWidget>

#include <optional>
#include <vector>

namespace jollyrow {

class OrderChips final : public QWidget {
    Q_OBJECT
  public:
    struct Words {
        QString move;     ///< tool tip of a chip
        QString takeOut;  ///< of its cross, and spoken
    };
    /// `chosen`: the chip shown as such; -1 when none can be.
    OrderChips(const QStringList& names, int chosen, const Words& words, QWidget* parent);
    ~OrderChips() override;
    /// Stands behind the last chip, e.g. what adds one.
    void addTail(QWidget* tail);
    /// Gives a chip the focus, as after it was moved.
    void focusChip(int index);
    /// Where a chip stands, for tests and pictures.
    QRect chipRect(int index) const;

    QSize sizeHint() const override;

  Q_SIGNALS:
    void chosen(int index);
    /// The chip now at `from` shall stand at `to`.
    void moved(int from, int to);
    void takenOut(int index);

  protected:
    void resizeEvent(QResizeEvent* event) override;
    void paintEvent(QPaintEvent* event) override;

  private:
    class Chip;
    int place(int width, bool apply) const;
    int landingAt(const QPoint& position) const;
    void dragTo(int from, const QPoint& position);
    void drop(int from);

    std::vector<Chip*> chips_;
    QWidget* tail_ = nullptr;
    bool laidOut_ = false;        ///< width() means something
    std::optional<int> landing_;  ///< the chip before which the dragged one would stand
};

/// What moved() asks of the things themselves.
template <class T>
void movePlace(std::vector<T>& things, int from, int to) {
    T thing = std::move(things[static_cast<std::size_t>(from)]);
    things.erase(things.begin() + from);
    things.insert(things.begin() + to, std::move(thing));
}

}  // namespace jollyrow
