// SPDX-License-Identifier: MIT
#include "grid/paint/glyph_text.h"

#include <QFontMetricsF>
#include <QGlyphRun>

#include <cmath>

namespace jollyrow {
namespace {

constexpr char32_t kMinus = 0x2212, kArrow = 0x2192;

/// Decodes one code point; moves `at` past it. U+FFFD for broken UTF-8.
char32_t decode(std::string_view text, std::size_t& at) {
    const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
    const unsigned char lead = byte(at++);
    if (lead < 0x80) return lead;
    const int more = lead >= 0xf0 ? 3 : lead >= 0xe0 ? 2 : lead >= 0xc2 ? 1 : 0;
    if (more == 0 || at + static_cast<std::size_t>(more) > text.size()) return 0xfffd;
    char32_t value = lead & (0x3f >> more);
    for (int i = 0; i < more; ++i) {
        if ((byte(at) & 0xc0) != 0x80) return 0xfffd;
        value = value << 6 | (byte(at++) & 0x3f);
    }
    return value;
}

}  // namespace

QFont weighted(QFont font, QFont::Weight weight, int smaller) {
    font.setWeight(weight);
    if (font.pixelSize() > 0)
        font.setPixelSize(font.pixelSize() - smaller);
    else if (smaller != 0)
        font.setPointSizeF(font.pointSizeF() * 0.85);
    return font;
}

GlyphText::GlyphText(const QFont& font) : font_(font), raw_(QRawFont::fromFont(font)) {
    ascent_ = raw_.ascent();
    descent_ = raw_.descent();
    for (char32_t c = 0x20; c < latin_.size(); ++c) latin_[c] = made(c);
    for (char32_t c = 0; c < punctuation_.size(); ++c) punctuation_[c] = made(0x2000 + c);
    for (const char32_t c : {U'\n', U'\t', U'\r'}) latin_[c] = latin_[U' '];
    latin_[0xad].known = false;                                            // soft hyphen: invisible by itself
    for (char32_t c = 0x0b; c < 0x10; ++c) punctuation_[c].known = false;  // joiners and direction marks
    for (char32_t c = 0x28; c < 0x2f; ++c) punctuation_[c].known = false;
    for (char32_t c = 0x60; c < 0x70; ++c) punctuation_[c].known = false;
    if (!punctuation_[0x09].known) punctuation_[0x09] = {latin_[U' '].index, latin_[U' '].advance * 0.6F, 0, true};
    minus_ = made(kMinus);
    rightArrow_ = made(kArrow);
    ellipsis_ = punctuation_[0x26].known ? punctuation_[0x26] : latin_[U'.'];
    float widest = 0;
    for (char32_t c = U'0'; c <= U'9'; ++c) widest = std::max(widest, latin_[c].advance);
    for (char32_t c = U'0'; c <= U'9'; ++c) {
        latin_[c].shift = (widest - latin_[c].advance) / 2;
        latin_[c].advance = widest;
    }
    fillAscii();
}

void GlyphText::fillAscii() {
    for (std::size_t c = 0; c < ascii_.size(); ++c) ascii_[c] = latin_[c].known ? latin_[c].advance : -1;
}

GlyphText::Glyph GlyphText::made(char32_t codePoint) const {
    const QList<quint32> indexes = raw_.glyphIndexesForString(QString::fromUcs4(&codePoint, 1));
    if (indexes.size() != 1 || indexes.first() == 0) return {};
    return {indexes.first(), static_cast<float>(raw_.advancesForGlyphIndexes(indexes).first().x()), 0, true};
}

const GlyphText::Glyph* GlyphText::glyphOf(char32_t codePoint) const {
    const Glyph* glyph = codePoint < latin_.size()                   ? &latin_[codePoint]
                         : codePoint >= 0x2000 && codePoint < 0x2070 ? &punctuation_[codePoint - 0x2000]
                         : codePoint == kMinus                       ? &minus_
                         : codePoint == kArrow                       ? &rightArrow_
                                                                     : nullptr;
    return glyph && glyph->known ? glyph : nullptr;
}

qreal GlyphText::width(std::string_view utf8) const {
    qreal sum = 0;
    std::size_t plain = 0;
    for (; plain < utf8.size(); ++plain) {
        const auto byte = static_cast<unsigned char>(utf8[plain]);
        if (byte >= ascii_.size() || ascii_[byte] < 0) break;
        sum += static_cast<qreal>(ascii_[byte]);
    }
    for (std::size_t at = plain; at < utf8.size();) {
        const Glyph* glyph = glyphOf(decode(utf8, at));
        if (!glyph)
            return QFontMetricsF(font_).horizontalAdvance(
                QString::fromUtf8(utf8.data(), static_cast<qsizetype>(utf8.size())));
        sum += static_cast<qreal>(glyph->advance);
    }
    return sum;
}

void GlyphText::add(std::string_view utf8, const QRectF& rect, Align align, TextTone tone) {
    constexpr std::size_t kMostBytes = 4096;  // a cell never shows more; a megabyte of text must not cost a frame
    utf8 = utf8.substr(0, kMostBytes);
    Run& run = runs_[static_cast<std::size_t>(tone)];
    const std::size_t start = run.glyphs.size();
    const qreal room = rect.width();
    // Room is left for an ellipsis from where it must start, should the text turn out too long.
    qreal x = 0, cutX = 0;
    std::size_t cut = start;
    bool tooLong = false;
    for (std::size_t at = 0; at < utf8.size();) {
        const Glyph* glyph = glyphOf(decode(utf8, at));
        if (!glyph) {
            run.glyphs.resize(start);
            run.positions.resize(start);
            shaped_.push_back(
                {QString::fromUtf8(utf8.data(), static_cast<qsizetype>(utf8.size())), rect, align, tone, false});
            return;
        }
        if (x + static_cast<qreal>(glyph->advance) > room + 0.5) {
            tooLong = true;
            break;
        }
        run.glyphs.push_back(glyph->index);
        run.positions.emplace_back(x + static_cast<qreal>(glyph->shift), 0);
        x += static_cast<qreal>(glyph->advance);
        if (x + static_cast<qreal>(ellipsis_.advance) <= room) {
            cut = run.glyphs.size();
            cutX = x;
        }
    }
    if (tooLong) {
        run.glyphs.resize(cut);
        run.positions.resize(cut);
        run.glyphs.push_back(ellipsis_.index);
        run.positions.emplace_back(cutX, 0);
        x = cutX + static_cast<qreal>(ellipsis_.advance);
    }
    const qreal left = align == Align::Left || tooLong ? rect.left()
                       : align == Align::Right         ? rect.right() - x
                                                       : rect.center().x() - x / 2;
    const qreal baseline = std::round(rect.center().y() + (ascent_ - descent_) / 2);
    for (std::size_t i = start; i < run.positions.size(); ++i) run.positions[i] += QPointF(left, baseline);
}

bool GlyphText::needsShaping(std::string_view utf8) const {
    for (std::size_t at = 0; at < utf8.size();) {
        const char32_t c = decode(utf8, at);
        if (c != U'\n' && !glyphOf(c)) return true;
    }
    return false;
}

template <class Visit>
void GlyphText::forEachLine(std::string_view utf8, qreal widthPx, const Visit& visit) const {
    std::size_t start = 0;
    while (start < utf8.size()) {
        qreal x = 0;
        std::size_t at = start, cut = 0, next = 0;  // cut: the last place a line may end; next: where the next begins
        bool over = false;
        while (at < utf8.size()) {
            const std::size_t before = at;
            const char32_t c = decode(utf8, at);
            if (c == U'\n') {
                cut = before;
                next = at;
                over = true;
                break;
            }
            const Glyph* glyph = glyphOf(c);
            x += glyph ? static_cast<qreal>(glyph->advance) : 0;
            if (x > widthPx + 0.5 && c != U' ' && before > start) {
                if (next == 0) cut = next = before;  // a word longer than the line
                over = true;
                break;
            }
            if (c == U' ') {
                cut = before;
                next = at;
            } else if (c == U'-') {
                cut = next = at;
            }
        }
        if (!over) {
            visit(start, utf8.size());
            return;
        }
        if (!visit(start, cut)) return;
        start = next;
    }
}

int GlyphText::wrappedLines(std::string_view utf8, qreal widthPx, int most) const {
    constexpr std::size_t kMostBytes = 4096;
    utf8 = utf8.substr(0, kMostBytes);
    if (needsShaping(utf8)) {
        const QRectF bounds =
            QFontMetricsF(font_).boundingRect(QRectF(0, 0, widthPx, 1e6), Qt::TextWordWrap,
                                              QString::fromUtf8(utf8.data(), static_cast<qsizetype>(utf8.size())));
        return std::clamp(static_cast<int>(std::lround(bounds.height() / QFontMetricsF(font_).lineSpacing())), 1, most);
    }
    int lines = 0;
    forEachLine(utf8, widthPx, [&](std::size_t, std::size_t) { return ++lines < most; });
    return std::max(1, lines);
}

void GlyphText::addWrapped(std::string_view utf8, const QRectF& rect, Align align, TextTone tone) {
    constexpr std::size_t kMostBytes = 4096;
    utf8 = utf8.substr(0, kMostBytes);
    const qreal step = std::ceil(lineHeight());
    const int most = std::max(1, static_cast<int>(rect.height() / step));
    if (most == 1) return add(utf8, rect, align, tone);
    if (needsShaping(utf8)) {
        shaped_.push_back(
            {QString::fromUtf8(utf8.data(), static_cast<qsizetype>(utf8.size())), rect, align, tone, true});
        return;
    }
    const int lines = wrappedLines(utf8, rect.width(), most);
    if (lines == 1 && utf8.find('\n') == std::string_view::npos && width(utf8) <= rect.width())
        return add(utf8, rect, align, tone);
    qreal y = rect.center().y() - lines * step / 2;
    int line = 0;
    forEachLine(utf8, rect.width(), [&](std::size_t begin, std::size_t end) {
        // The last line that fits takes the rest, so that the ellipsis says there is more.
        const std::string_view text = ++line == most ? utf8.substr(begin) : utf8.substr(begin, end - begin);
        add(text, QRectF(rect.left(), y, rect.width(), step), align, tone);
        y += step;
        return line < most;
    });
}

void GlyphText::flush(QPainter& painter, const std::array<QColor, kTextTones>& colours) {
    for (std::size_t tone = 0; tone < kTextTones; ++tone) {
        Run& run = runs_[tone];
        if (run.glyphs.empty()) continue;
        QGlyphRun glyphs;
        glyphs.setRawFont(raw_);
        glyphs.setRawData(run.glyphs.data(), run.positions.data(), static_cast<int>(run.glyphs.size()));
        painter.setPen(colours[tone]);
        painter.drawGlyphRun(QPointF(0, 0), glyphs);
        run.glyphs.clear();
        run.positions.clear();
    }
    for (const Shaped& shaped : shaped_) {
        painter.setPen(colours[static_cast<std::size_t>(shaped.tone)]);
        painter.setFont(font_);
        QString text = shaped.text;
        if (shaped.wrapped) {
            painter.drawText(
                shaped.rect,
                Qt::AlignTop | Qt::TextWordWrap | (shaped.align == Align::Right ? Qt::AlignRight : Qt::AlignLeft),
                text);
            continue;
        }
        text.replace(u'\n', u' ');
        const int flags = Qt::AlignVCenter | Qt::TextSingleLine |
                          (shaped.align == Align::Left    ? Qt::AlignLeft
                           : shaped.align == Align::Right ? Qt::AlignRight
                                                          : Qt::AlignHCenter);
        painter.drawText(shaped.rect, flags,
                         QFontMetricsF(font_).elidedText(text, Qt::ElideRight, shaped.rect.width()));
    }
    shaped_.clear();
}

}  // namespace jollyrow
