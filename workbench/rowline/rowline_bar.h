// SPDX-License-Identifier: MIT
#pragma once
// RowlineBar: the path of the rows, drawn as one current with stations. Each station says what it does; between them
// stands how many rows flow on, and the current's breadth follows that number.

#include <QPainterPath>
#include <QWidget>

#include <optional>
#include <vector>

#include "core/rows/snapshot.h"
#include "grid/access/painted_parts.h"

class QVariantAnimation;

namespace jollyrow {

/// One station, as values.
struct Station {
    Stage stage = Stage::Source;
    QString sentence;  ///< "jobs in kelpie-quay.db"
    std::int64_t rowsOut = 0;
    QString passesOn;  ///< what flows on, where it is not rows: "37 groups"
    double milliseconds = 0;
    bool isBypassed = false;      ///< left out for a moment
    bool isIdle = false;          ///< passes its rows on untouched
    std::vector<QString> words;   ///< parts of the sentence that name a column, with…
    std::vector<QString> fields;  ///< …the field each of them names
};

/// Pure geometry of the current; pixels of the bar.
struct CurrentShape {
    struct Span {
        double x0 = 0, x1 = 0;
    };
    std::vector<Span> stations;
    QPainterPath outline;
    std::vector<double> thickness;  ///< of the channel behind each station

    /// Half-breadth for a number of rows: 5.3 log10(rows), at least a thread.
    static double thicknessFor(std::int64_t rows);
    /// Lays stations over `width`, and channels between them as wide as what stands over each (`words`, by station).
    static CurrentShape of(const std::vector<double>& textWidths, const std::vector<double>& words,
                           const std::vector<double>& thickness, double width, double height);
};

class RowlineBar final : public QWidget, public PaintedParts {
    Q_OBJECT
  public:
    explicit RowlineBar(QWidget* parent = nullptr);
    void setStations(std::vector<Station> stations);
    /// The station whose editor is open.
    void setOpenStage(std::optional<Stage> stage);
    /// Words that name this field are underlined.
    void setDesignColumn(const std::optional<QString>& field);
    QRect stationRect(Stage stage) const;
    /// While a heading is dragged over: the station under this point takes it, with these words. Null point: nothing.
    std::optional<Stage> dragOver(const QPoint& globalPosition, const QString& words);
    void dragEnd();
    QSize sizeHint() const override { return {800, height()}; }
    /// The stations.
    int partCount() const override { return static_cast<int>(stations_.size()); }
    PaintedPart part(int index) const override;
    void pressPart(int index) override;

  Q_SIGNALS:
    void stationClicked(jollyrow::Stage stage);

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
    QString wordsBehind(std::size_t station) const;
    void relayout();
    int stationAt(QPointF position) const;
    void paintStation(QPainter& painter, int index);
    void paintChannel(QPainter& painter, int index);
    void paintTotal(QPainter& painter);
    void paintSentence(QPainter& painter, const Station& station, const QRectF& room);
    std::vector<Station> stations_;
    CurrentShape shape_;
    std::vector<double> shownThickness_;  ///< eases towards the shape's
    QVariantAnimation* easing_;
    std::optional<Stage> open_;
    std::optional<QString> designColumn_;
    int hovered_ = -1;
    int dropOn_ = -1;
    QString dropWords_;
    int focused_ = 0;
};

}  // namespace jollyrow
