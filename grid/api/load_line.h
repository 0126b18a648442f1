// SPDX-License-Identifier: MIT
#pragma once
// LoadLine: a line at a grid that says how far the reading of its records has come, of how many, how fast, with a way
// to stop it; and, once it was stopped, that there are more records than are counted and summed up. Hidden otherwise.
//
//   auto* loading = new jollyrow::LoadLine(grid);   // put below the grid in a layout
//
// Confined to the window's thread. The grid is not owned and may go first.

#include <QPointer>
#include <QWidget>

class QLabel;
class QPushButton;
class QTimer;

namespace jollyrow {

class Grid;

class LoadLine final : public QWidget {
    Q_OBJECT
  public:
    explicit LoadLine(Grid& grid, QWidget* parent = nullptr);
    /// Only that reading was stopped, where something else shows the progress. Default: both.
    void setOnlyStopped(bool only);
    /// What stands there; empty while it is hidden.
    QString words() const;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void refresh();
    void press();

    QPointer<Grid> grid_;
    QLabel* words_;
    QPushButton* button_;
    QTimer* soon_;
    double share_ = -1;  ///< of the records; negative: not known
    bool onlyStopped_ = false;
};

/// "300 000 of about 1 000 000", or "300 000" where it is not known of how many. For status lines.
struct LoadProgress;
QString progressWords(const LoadProgress& progress);
/// 0..1; negative when it is not known.
double progressShare(const LoadProgress& progress);

}  // namespace jollyrow
