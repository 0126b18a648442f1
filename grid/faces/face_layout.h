// SPDX-License-Identifier: MIT
#pragma once
// FaceLayout: where the parts of a composed face stand in a cell. Pure; keeps its buffers from cell to cell.

#include <QRectF>

#include <functional>
#include <vector>

#include "core/design/face_reader.h"

namespace jollyrow {

class FaceLayout final {
  public:
    struct Needs {
        QSizeF size;           ///< pixels it would take
        bool shrinks = false;  ///< may be given less width
    };
    using Measure = std::function<Needs(std::size_t part)>;  ///< of parts that hold no others
    static constexpr qreal kGap = 6;                         ///< between parts side by side, unless room stands there

    /// Measures what is shown. Requires: content of this face.
    void measure(const PlannedFace& face, const FaceContent& content, const Measure& measure);
    QSizeF needed() const { return needs_.empty() ? QSizeF() : needs_.front().size; }
    /// By part its place in `room`; null rectangles where nothing is shown. Requires: measure() of the same.
    const std::vector<QRectF>& arrange(const PlannedFace& face, const FaceContent& content, const QRectF& room);
    const std::vector<QRectF>& rects() const { return rects_; }
    /// The innermost shown part at a point; nullopt beside all.
    std::optional<std::size_t> partAt(const PlannedFace& face, const QPointF& point) const;

  private:
    void measurePart(const PlannedFace& face, const FaceContent& content, std::size_t part, const Measure& measure);
    void place(const PlannedFace& face, const FaceContent& content, std::size_t part, const QRectF& room);
    void placeRow(const PlannedFace& face, const FaceContent& content, std::size_t part, const QRectF& room);
    void placeColumn(const PlannedFace& face, const FaceContent& content, std::size_t part, const QRectF& room);

    std::vector<Needs> needs_;   ///< by part
    std::vector<QRectF> rects_;  ///< by part
};

}  // namespace jollyrow
