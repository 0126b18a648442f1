// SPDX-License-Identifier: MIT
#pragma once
// Paints what stands on group lines, their footers and the totals: chevron, caption, count, figures under their own
// columns. Backgrounds are the GridPainter's.

#include <QPainter>

#include <string>
#include <vector>

#include "grid/glyph_text.h"
#include "grid/group_text.h"
#include "grid/line_source.h"

namespace jollyrow {

struct GridFrame;
struct PinnedLine;

class GroupPainter final {
  public:
    explicit GroupPainter(const QFont& font);
    /// One line; what the clip leaves of it.
    void paintLine(QPainter& painter, const GridFrame& frame, const PinnedLine& row, const QRect& clip);
    void paintTotals(QPainter& painter, const GridFrame& frame, const QRect& clip);
    /// Pixels that the figures of a column need.
    int figureWidth(const GroupText& groups, const Snapshot& snapshot, int column) const;
    /// Where the mark that opens and closes a group stands.
    static QRect chevronRect(const GridFrame& frame, int level, int y, int height);
    int lineHeight() const;

  private:
    struct Look {
        GlyphText* text = nullptr;
        TextTone tone = TextTone::Ink;
    };
    void flush(QPainter& painter, const GridFrame& frame);
    template <class Read>
    void collectFigures(QPainter& painter, const GridFrame& frame, int y, int height, int captionEnd, const Look& look,
                        const QRect& clip, const Read& read);

    GlyphText plain_, medium_, bold_;
    std::string caption_;
    std::vector<FigureText> figures_;
};

}  // namespace jollyrow
