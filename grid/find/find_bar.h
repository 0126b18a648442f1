// SPDX-License-Identifier: MIT
#pragma once
// FindBar: the entry in the grid's corner that finds records by what they show (Ctrl+F): how many there are, the next
// and the one before, and whether the rest is hidden.

#include <QFrame>

class QCheckBox;
class QLabel;
class QLineEdit;

namespace jollyrow {

struct Tokens;

class FindBar final : public QFrame {
    Q_OBJECT
  public:
    FindBar(QWidget* parent, const Tokens& look);
    /// At the bottom right of `room`, where it hides no heading.
    void openIn(const QRect& room);
    /// With the entry for what takes the place of what is found, in a column with this heading.
    void openReplacing(const QRect& room, const QString& heading);
    QLineEdit* with() const { return with_; }
    QLineEdit* entry() const { return entry_; }
    QCheckBox* hideRest() const { return hideRest_; }
    /// "3 of 12", or why there is none.
    void setCount(const QString& words, bool isWrong = false);
    QString count() const;

  Q_SIGNALS:
    void typed(const QString& text);
    void stepped(int by);
    void restHidden(bool hidden);
    void replaceWanted();
    void replaceOne(const QString& with);
    void replaceAll(const QString& with);
    void closed();

  protected:
    void paintEvent(QPaintEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    QWidget* makeReplacing();
    bool key(const QObject* in, const QKeyEvent& key);

    const Tokens& look_;
    QLineEdit* entry_;
    QLabel* count_;
    QCheckBox* hideRest_;
    QWidget* replacing_;
    QLineEdit* with_;
    QLabel* where_;
};

}  // namespace jollyrow
