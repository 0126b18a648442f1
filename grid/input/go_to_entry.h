// SPDX-License-Identifier: MIT
#pragma once
// GoToEntry: a small entry in the grid's corner that says where to go: the number of a line, the key of a record, or
// how the value of a column begins. The key that opens it goes from one to the next.

#include <QFrame>
#include <QString>

#include <optional>
#include <vector>

class QLabel;
class QLineEdit;
class QToolButton;

namespace jollyrow {

class GoToEntry final : public QFrame {
    Q_OBJECT
  public:
    enum class By { Line, Key, Beginning };
    struct Offer {
        std::int64_t lines = 0;  ///< numbered from 1, as people count
        QString key;             ///< what the key is called; "" = records have none
        QString column;          ///< whose values may be typed at; "" = no cell is current
    };
    GoToEntry(Offer offer, By by, QWidget* parent);
    /// Places itself at the top right of `room`, shows and takes the focus.
    void openIn(const QRect& room);
    /// There is no such place, and why; "" takes that back.
    void setWrong(const QString& why);
    By by() const { return by_; }

  Q_SIGNALS:
    /// Counted from 0.
    void lineChosen(std::int64_t line);
    void keyChosen(const QString& typed);
    /// As it is typed; `next`: behind the record that is current, else from it on.
    void beginningTyped(const QString& typed, bool next);
    void closed();

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;

  private:
    void choose();
    void setBy(By by);
    void turn();
    bool isOffered(By by) const;

    Offer offer_;
    By by_;
    std::vector<QToolButton*> ways_;  ///< by By; null where it is not offered
    QLineEdit* entry_;
    QLabel* note_;
    bool wrong_ = false;
};

}  // namespace jollyrow
