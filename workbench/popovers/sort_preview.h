// SPDX-License-Identifier: MIT
#pragma once
// SortPreview: some real records before and after a sort, with lines from where each stood to where it stands.

#include <QWidget>

#include <memory>
#include <vector>

#include "grid/api/grid.h"

namespace jollyrow {

class SortPreview final : public QWidget {
    Q_OBJECT
  public:
    SortPreview(Grid& grid, QWidget* parent);
    /// Other records than those shown.
    void chooseOthers();
    QSize sizeHint() const override { return {600, 24 + 8 * 22}; }
    QSize minimumSizeHint() const override { return sizeHint(); }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    struct Sample {
        SourceRow row{};
        int before = 0, after = 0;  ///< places among the samples
        QString key;                ///< of the first key, after
        bool tied = false;          ///< with the one above, on the first key
    };
    void paint(QPainter& painter, const std::vector<int>& shown) const;
    void paintRecord(QPainter& painter, const Sample& sample, const QRect& row, bool isAfter,
                     const std::vector<int>& shown) const;
    static void paintWay(QPainter& painter, int moved, QPointF from, QPointF to);
    void choose();
    void refresh();
    std::vector<int> placesIn(const Snapshot& snapshot) const;
    QString textOf(SourceRow row, int column) const;
    std::vector<int> shownColumns() const;

    Grid& grid_;
    std::shared_ptr<const Snapshot> before_;
    std::vector<Sample> samples_;
    bool againstBound_ = false;
    unsigned turn_ = 0;
};

}  // namespace jollyrow
