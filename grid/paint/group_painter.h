// SPDX-License-Identifier: MIT
#pragma once
// Paints what stands on group lines, their footers and the totals: chevron, caption, count, figures under their own
// columns. Backgrounds are the GridPainter's.

#include <QPainter>

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "grid/groups/group_text.h"
#include "grid/layout/column_layout.h"
#include "grid/layout/rows_view.h"
#include "grid/paint/cell_looks.h"
#include "grid/paint/glyph_text.h"
#include "grid/paint/line_looks.h"

namespace jollyrow {

struct GridFrame;
struct PinnedLine;
struct TotalRow;

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
    /// A figure and where it is painted.
    struct Hit {
        std::size_t summary = 0;
        QRect rect;
    };
    std::optional<Hit> figureAt(const GridFrame& frame, const PinnedLine& row, QPoint position) const;
    std::optional<Hit> figureAt(const GridFrame& frame, const TotalRow& row, QPoint position) const;
    /// All that stand there, from the left.
    std::vector<Hit> figuresOn(const GridFrame& frame, const PinnedLine& row) const;
    std::vector<Hit> figuresOn(const GridFrame& frame, const TotalRow& row) const;

  private:
    std::vector<Hit> placedHits() const;
    /// How the texts of a line are drawn, but for what styles say.
    struct Look {
        GlyphText* text = nullptr;
        LineWeight weight = LineWeight::Regular;
        TextTone tone = TextTone::Ink;
        TextTone quiet = TextTone::Quiet;
        QColor behind;
        int y = 0, height = 0;
        QColor ink = {};  ///< of the texts, as designed; not valid: the theme's
        /// What styles give a figure, or the line as a whole; null where there are none.
        std::function<CellStyle(std::optional<std::size_t>)> styleOf = nullptr;
    };
    CellLook styled(const GridFrame& frame, const Look& look, std::optional<std::size_t> summary) const;
    /// A text in a style of its own, drawn at once.
    void paintStyledText(QPainter& painter, const CellLook& own, std::string_view text, const QRectF& room,
                         GlyphText::Align align);
    void paintFigure(QPainter& painter, const GridFrame& frame, const Look& look, std::size_t index);
    void flush(QPainter& painter, const GridFrame& frame);
    /// Where the figures of one line are painted, but for those that the caption stands over.
    template <class Read>
    void place(const GridFrame& frame, int y, int height, int captionEnd, const GlyphText& text,
               const Read& read) const;
    void placeLine(const GridFrame& frame, const PinnedLine& row) const;
    void tellHiddenCount() const;
    void placeTotals(const GridFrame& frame, const TotalRow& row) const;
    void paintPlaced(QPainter& painter, const GridFrame& frame, const Look& look, const QRect& clip);
    const GlyphText& textOf(LineWeight weight) const {
        return weight == LineWeight::Bold ? bold_ : weight == LineWeight::Medium ? medium_ : plain_;
    }
    GlyphText& textOf(LineWeight weight) { return const_cast<GlyphText&>(std::as_const(*this).textOf(weight)); }

    GlyphText plain_, medium_, bold_;
    std::map<std::pair<LineWeight, bool>, GlyphText> styled_;  ///< by weight and italic, made when first asked for
    /// What the last line came to.
    struct Placed {
        FigureText figure;
        QRectF room, text;
        int column = 0;
        Zone zone = Zone::Scrolled;
    };
    mutable std::vector<Placed> placed_;
    mutable std::string caption_, count_, hiddenCount_;
    mutable int captionX_ = 0;
    mutable double captionWidth_ = 0, countWidth_ = 0;
    mutable std::vector<FigureText> figures_;
};

}  // namespace jollyrow
