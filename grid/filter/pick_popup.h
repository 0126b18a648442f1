// SPDX-License-Identifier: MIT
#pragma once
// PickPopup: a column's values to pick from, with search, all and none. What is picked filters at once.

#include <QFrame>

#include "grid/filter/pick_rows.h"

class QLabel;
class QLineEdit;

namespace jollyrow {

class PickPopup final : public QFrame {
    Q_OBJECT
  public:
    PickPopup(const QString& heading, QWidget* parent, const Tokens& look);
    PickRows& rows() { return *rows_; }
    QLineEdit* searchEntry() const { return search_; }
    /// Under `anchor`, inside the parent.
    void openUnder(const QRect& anchor);
    void setFoot(const QString& text, bool isWrong = false);

  Q_SIGNALS:
    void picked();
    void cleared();
    void closed();

  protected:
    void paintEvent(QPaintEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void leave();
    bool key(int key, bool inSearch);

    const Tokens& look_;
    QLineEdit* search_;
    PickRows* rows_;
    QLabel* foot_;
};

}  // namespace jollyrow
