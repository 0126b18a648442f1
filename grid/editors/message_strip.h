// SPDX-License-Identifier: MIT
#pragma once
// MessageStrip: says beneath a cell what is to be put right, with what can be done about it as links.

#include <QWidget>

#include <functional>
#include <vector>

class QLabel;
class QHBoxLayout;

namespace jollyrow {

class MessageStrip final : public QWidget {
    Q_OBJECT
  public:
    explicit MessageStrip(QWidget* parent);
    struct Link {
        QString text;
        std::function<void()> act;
    };
    /// Shows under `cell`, inside `room`, its tooth at the cell.
    void showUnder(const QRect& cell, const QRect& room, const QString& message, const std::vector<Link>& links);
    QString message() const;
    /// The keys go to the first link.
    void focusFirst();

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QLabel* label_;
    QHBoxLayout* row_;
    std::vector<QWidget*> links_;
    int toothX_ = 0;
};

}  // namespace jollyrow
