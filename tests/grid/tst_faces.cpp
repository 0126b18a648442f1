// SPDX-License-Identifier: MIT
// Faces by themselves: which kind a column gets, that what is painted stays in its cell and shows the value, and what a
// press means. Golden: what is painted of a value is the same whatever was painted before, and differs between values.
#include <QtTest>

#include <QImage>

#include "grid/faces/cell_face.h"

using namespace jollyrow;

namespace {

PlannedColumn columnOf(Type type, FormatStyle style = FormatStyle::Automatic) {
    PlannedColumn column;
    column.format.type = type;
    column.format.spec.style = style;
    return column;
}

/// A cell painted alone in the middle of a wide margin.
QImage painted(const PlannedColumn& column, const CellText& text, TextTone tone = TextTone::Ink, int inset = 0) {
    QImage image(240, 80, QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter painter(&image);
    GlyphText glyphs{QFont()};
    const Tokens& look = tokens(Theme::Light);
    faceOf(column).paint({painter, glyphs, look}, {column, text, QRect(60, 24, 120, 26), tone, inset});
    glyphs.flush(painter, {look.ink, look.ink2, look.buoyText, look.onTeal});
    return image;
}

QRect inkOf(const QImage& image) {
    QRect ink;
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x)
            if (image.pixel(x, y) != QColor(Qt::white).rgb()) ink |= QRect(x, y, 1, 1);
    return ink;
}

CellText cell(std::string text) {
    CellText out;
    out.text = std::move(text);
    return out;
}

}  // namespace

class FacesTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everyTypeHasAFaceThatStaysInItsCell() {
        for (int type = 0; type <= static_cast<int>(Type::Interval); ++type)
            for (const Alignment alignment : {Alignment::Left, Alignment::Center, Alignment::Right})
                for (const bool wrap : {false, true})
                    for (const char* text : {"7", "Otter's Due, hauled out for the winter and not before", "مرحبا"}) {
                        PlannedColumn column = columnOf(static_cast<Type>(type));
                        column.alignment = alignment;
                        column.design.wrap = wrap;
                        const QRect ink = inkOf(painted(column, cell(text)));
                        QVERIFY2(!ink.isEmpty(), text);
                        QVERIFY2(QRect(60, 24, 120, 26).contains(ink), qPrintable(QString::number(type)));
                    }
    }

    void onlyYesAndNoToggle() {
        for (int type = 0; type <= static_cast<int>(Type::Interval); ++type)
            for (const FormatStyle style : {FormatStyle::Automatic, FormatStyle::Pattern}) {
                const PlannedColumn column = columnOf(static_cast<Type>(type), style);
                const bool toggles = faceOf(column).press() == FacePress::Toggles;
                QCOMPARE(toggles, static_cast<Type>(type) == Type::Boolean);
                QCOMPARE(faceOf(column).measure(GlyphText{QFont()}, column, {}).has_value(),
                         toggles && style == FormatStyle::Automatic);
            }
    }

    void aCheckShowsItsStateAndAMisfitItsText() {
        const PlannedColumn column = columnOf(Type::Boolean);
        CellText off = cell("no"), on = cell("yes"), odd = cell("perhaps");
        on.isChecked = true;
        odd.isMisfit = true;
        const QImage offImage = painted(column, off), onImage = painted(column, on);
        QVERIFY(offImage != onImage);
        QCOMPARE(painted(column, off), offImage);  // nothing of the last one is left
        QCOMPARE(inkOf(offImage), inkOf(onImage));
        QVERIFY(inkOf(painted(column, odd, TextTone::Error)).width() > inkOf(onImage).width());
    }

    void checksStandAsTheColumnIsAligned() {
        std::vector<int> lefts;
        for (const Alignment alignment : {Alignment::Left, Alignment::Center, Alignment::Right}) {
            PlannedColumn column = columnOf(Type::Boolean);
            column.alignment = alignment;
            lefts.push_back(inkOf(painted(column, cell("no"))).left());
        }
        QVERIFY(lefts[0] < lefts[1] && lefts[1] < lefts[2]);
    }

    void decimalSignsStandBeneathEachOther() {
        PlannedColumn column = columnOf(Type::Real);
        column.alignment = Alignment::Right;
        // Room for ".123" right of the sign: whole numbers end left of it, others reach into it.
        const int whole = inkOf(painted(column, cell("7"), TextTone::Ink, 30)).right();
        const int one = inkOf(painted(column, cell("7.1"), TextTone::Ink, 30)).right();
        const int more = inkOf(painted(column, cell("7.111"), TextTone::Ink, 30)).right();
        QVERIFY2(whole < one && one < more, qPrintable(QString("%1 %2 %3").arg(whole).arg(one).arg(more)));
        column.alignment = Alignment::Left;  // elsewhere there is nothing to align
        QCOMPARE(inkOf(painted(column, cell("7"), TextTone::Ink, 30)), inkOf(painted(column, cell("7"))));
    }

    void aPressIsNearTheMiddleOfACentredCell() {
        const QRect at(100, 50, 80, 26);
        const CellFace& face = faceOf(columnOf(Type::Boolean));
        QVERIFY(face.isPressedAt(at.center(), at, Alignment::Center));
        QVERIFY(!face.isPressedAt(at.topLeft(), at, Alignment::Center));
        QVERIFY(face.isPressedAt(at.topLeft(), at, Alignment::Left));
    }
};

QTEST_MAIN(FacesTest)
#include "tst_faces.moc"
