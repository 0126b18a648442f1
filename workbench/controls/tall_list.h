// SPDX-License-Identifier: MIT
#pragma once
// TallList: as high as what it holds, and scrolled where there is less room than that.

#include <QScrollArea>

namespace jollyrow {

class TallList final : public QScrollArea {
    Q_OBJECT
  public:
    TallList(QWidget* content, QWidget* parent);
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return {0, 60}; }
    /// Puts other content in; what is in sight stays where it is, and `focused` is in sight.
    void exchange(QWidget* content, QWidget* focused);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
};

}  // namespace jollyrow
