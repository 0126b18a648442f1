// SPDX-License-Identifier: MIT
#pragma once
// GlyphText: draws many short texts fast. Collects the glyphs of a row of cells and draws them as one run a colour,
// with an advance table of its own, ellipses and figures of one width. Texts that need shaping (combining marks,
// right-to-left, glyphs the font lacks) are drawn by the toolkit's layout instead. Confined to the window's thread.

#include <QFont>
#include <QPainter>
#include <QRawFont>
#include <QRectF>

#include <array>
#include <optional>
#include <string_view>
#include <vector>

namespace jollyrow {

/// The same font in another weight, and some pixels smaller.
QFont weighted(QFont font, QFont::Weight weight, int smaller = 0);

enum class TextTone { Ink, Quiet, Error, OnDark };
inline constexpr std::size_t kTextTones = 4;

class GlyphText final {
  public:
    enum class Align { Left, Center, Right };
    explicit GlyphText(const QFont& font);

    /// Width in pixels of the whole text.
    qreal width(std::string_view utf8) const;
    /// True when the text does not fit `availablePx` and would be elided.
    bool elides(std::string_view utf8, qreal availablePx) const { return width(utf8) > availablePx + 0.5; }
    /// Adds a text to the row being collected; elided to the rect's width. Line breaks show as spaces.
    void add(std::string_view utf8, const QRectF& rect, Align align, TextTone tone);
    /// The same in as many lines as fit the rect's height, broken between words; elided on the last.
    void addWrapped(std::string_view utf8, const QRectF& rect, Align align, TextTone tone);
    /// Lines that a text takes at this width, at most `most`.
    int wrappedLines(std::string_view utf8, qreal widthPx, int most) const;
    /// Draws what was collected and forgets it.
    void flush(QPainter& painter, const std::array<QColor, kTextTones>& colours);
    const QFont& font() const { return font_; }
    qreal lineHeight() const { return ascent_ + descent_; }

  private:
    struct Glyph {
        quint32 index = 0;
        float advance = 0;
        float shift = 0;  ///< centres a figure in the figures' common width
        bool known = false;
    };
    struct Run {
        std::vector<quint32> glyphs;
        std::vector<QPointF> positions;
    };
    struct Shaped {
        QString text;
        QRectF rect;
        Align align;
        TextTone tone;
        bool wrapped = false;
    };
    /// Calls visit(begin, end) in bytes for each line; stops when it returns false.
    template <class Visit>
    void forEachLine(std::string_view utf8, qreal widthPx, const Visit& visit) const;
    bool needsShaping(std::string_view utf8) const;
    const Glyph* glyphOf(char32_t codePoint) const;
    Glyph made(char32_t codePoint) const;
    void fillAscii();

    QFont font_;
    QRawFont raw_;
    qreal ascent_ = 0, descent_ = 0;
    std::array<Glyph, 0x250> latin_;
    std::array<float, 0x80> ascii_{};      ///< advances, for the common case; negative where there is no glyph
    std::array<Glyph, 0x70> punctuation_;  ///< U+2000 .. U+206F
    Glyph minus_, ellipsis_, rightArrow_;
    std::array<Run, kTextTones> runs_;
    std::vector<Shaped> shaped_;
};

}  // namespace jollyrow
