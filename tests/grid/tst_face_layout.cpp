// SPDX-License-Identifier: MIT
// The arithmetic of composed faces: parts stay in their room and apart from each other whatever the tree and the room,
// what may not shrink does not, shares share; the numbers of an axis; contrast.
#include <QtTest>

#include <random>

#include "grid/faces/composed_face.h"
#include "grid/faces/face_layout.h"
#include "grid/faces/parts/bar_part.h"
#include "grid/paint/axis_painter.h"
#include "grid/paint/contrast.h"

using namespace jollyrow;

namespace {

/// A planned face of a tree of parts, all of them shown but those `hidden` picks.
struct Laid {
    PlannedFace face;
    FaceContent content;
    std::vector<QSizeF> sizes;

    void add(const FacePart& part, std::mt19937& random, bool shown) {
        const std::size_t index = face.parts.size();
        face.parts.emplace_back().design = part;
        content.parts.emplace_back().isShown = shown;
        sizes.emplace_back(random() % 120, random() % 30);
        for (const FacePart& child : part.parts) add(child, random, shown && random() % 5 != 0);
        face.parts[index].end = face.parts.size();
    }
    const std::vector<QRectF>& arrange(FaceLayout& layout, const QRectF& room) {
        layout.measure(face, content, [this](std::size_t part) -> FaceLayout::Needs {
            return {sizes[part], face.parts[part].design.kind == FacePartKind::Text};
        });
        return layout.arrange(face, content, room);
    }
};

FacePart randomTree(std::mt19937& random, int levels) {
    FacePart part;
    constexpr FacePartKind kKinds[] = {FacePartKind::Row, FacePartKind::Column, FacePartKind::Stack};
    if (levels == 1) {
        part.kind = random() % 2 ? FacePartKind::Text : FacePartKind::Mark;
    } else {
        part.kind = kKinds[random() % 3];
        for (unsigned i = 0, n = 1 + random() % 4; i < n; ++i)
            part.parts.push_back(randomTree(random, random() % 2 ? levels - 1 : 1));
    }
    part.width.mode = static_cast<WidthMode>(random() % 3);
    part.width.pixels = static_cast<int>(random() % 90);
    part.width.weight = 1 + random() % 3;
    return part;
}

}  // namespace

class FaceLayoutTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void partsStayInTheirRoomAndApart() {
        std::mt19937 random(11);
        FaceLayout layout;
        for (int turn = 0; turn < 3000; ++turn) {
            Laid laid;
            laid.add(randomTree(random, 4), random, true);
            const QRectF room(random() % 40, random() % 40, random() % 400, random() % 60);
            const auto& rects = laid.arrange(layout, room);
            for (std::size_t part = 0; part < rects.size(); ++part) {
                if (!laid.content.parts[part].isShown) {
                    QVERIFY(rects[part].isNull());
                    continue;
                }
                const QRectF inside = room.adjusted(-0.01, -0.01, 0.01, 0.01);
                QVERIFY(inside.contains(rects[part].topLeft()) && rects[part].right() <= inside.right() &&
                        rects[part].bottom() <= inside.bottom());
                const FacePartKind kind = laid.face.parts[part].design.kind;
                if (!holdsParts(kind) || kind == FacePartKind::Stack) continue;
                QRectF last;
                for (std::size_t child = part + 1; child < laid.face.parts[part].end;
                     child = laid.face.parts[child].end) {
                    if (!laid.content.parts[child].isShown) continue;
                    const QRectF& rect = rects[child];
                    if (!last.isNull())
                        QVERIFY(kind == FacePartKind::Row ? rect.left() >= last.right() - 0.01
                                                          : rect.top() >= last.bottom() - 0.01);
                    last = rect;
                }
            }
        }
    }

    void fixedPartsKeepTheirPixelsAndTextsShrinkWidestFirst() {
        std::mt19937 random(1);
        Laid laid;
        laid.add(face::row({face::mark({}).fixed(10), face::text("a"), face::text("b"), face::mark({})}), random, true);
        for (PartContent& part : laid.content.parts) part.isShown = true;
        laid.sizes = {{}, {30, 10}, {100, 10}, {40, 10}, {11, 11}};
        FaceLayout layout;
        const auto& rects = laid.arrange(layout, QRectF(0, 0, 139, 20));
        // 139 - 10 - 11 - three gaps are left for both: as much for each.
        QCOMPARE(rects[1].width(), 10.0);
        QCOMPARE(rects[4].width(), 11.0);
        QVERIFY(std::abs(rects[2].width() + rects[3].width() - 100) < 1);
        QVERIFY(std::abs(rects[3].width() - 40) < 0.5);  // the widest gave it all
        QCOMPARE(layout.needed().width(), 10 + 100 + 40 + 11 + 3 * FaceLayout::kGap);
    }

    void whatSharesTakesWhatIsLeft() {
        std::mt19937 random(1);
        Laid laid;
        laid.add(face::row({face::text("a").share(), face::text("b").share(3), face::spacer(20), face::mark({})}),
                 random, true);
        for (PartContent& part : laid.content.parts) part.isShown = true;
        laid.sizes = {{}, {500, 10}, {5, 10}, {6, 0}, {11, 11}};
        FaceLayout layout;
        const auto& rects = laid.arrange(layout, QRectF(0, 0, 237, 20));
        QCOMPARE(rects[1].width(), 50.0);
        QCOMPARE(rects[2].width(), 150.0);
        QCOMPARE(rects[4].left(), 226.0);  // room stands instead of a gap, on both of its sides
    }

    void theInnermostPartIsUnderThePointer() {
        std::mt19937 random(1);
        Laid laid;
        laid.add(face::row({face::column({face::text("a"), face::text("b")}), face::mark({})}), random, true);
        for (PartContent& part : laid.content.parts) part.isShown = true;
        laid.sizes = {{}, {}, {50, 10}, {60, 10}, {11, 11}};
        FaceLayout layout;
        laid.arrange(layout, QRectF(0, 0, 100, 30));
        QCOMPARE(layout.partAt(laid.face, {20, 8}), std::optional<std::size_t>(2));
        QCOMPARE(layout.partAt(laid.face, {20, 20}), std::optional<std::size_t>(3));
        QCOMPARE(layout.partAt(laid.face, {70, 8}), std::optional<std::size_t>(4));
        QCOMPARE(layout.partAt(laid.face, {95, 8}), std::optional<std::size_t>());
    }

    /// Within the ends, evenly apart by 1, 2 or 5 times a power of ten, never more than asked for, 0 exactly 0.
    void axisNumbersAreNice() {
        std::mt19937 random(2);
        for (int turn = 0; turn < 5000; ++turn) {
            const double size = std::pow(10.0, static_cast<double>(random() % 24) - 9.0);
            Extent ends{-(random() % 100 / 37.0) * size * (random() % 2), (random() % 100 + 1) / 41.0 * size};
            const int most = 1 + static_cast<int>(random() % 12);
            const auto numbers = niceNumbers(ends, most);
            QVERIFY(!numbers.empty() && static_cast<int>(numbers.size()) <= most);
            for (std::size_t i = 0; i < numbers.size(); ++i) {
                QVERIFY(numbers[i] >= ends.low - size * 1e-6 && numbers[i] <= ends.high + size * 1e-6);
                if (std::abs(numbers[i]) < size * 1e-9) QCOMPARE(numbers[i], 0.0);
                if (i < 2) continue;
                const double step = numbers[1] - numbers[0];
                QVERIFY(std::abs(numbers[i] - numbers[i - 1] - step) < step * 1e-6);
                const double digit = step / std::pow(10.0, std::floor(std::log10(step * 1.0000001)));
                QVERIFY2(std::abs(digit - 1) < 1e-4 || std::abs(digit - 2) < 1e-4 || std::abs(digit - 5) < 1e-4,
                         qPrintable(QString::number(digit)));
            }
        }
        for (const Extent& none : {Extent{0, 0}, Extent{5, 1}, Extent{-1e308, 1e308}, Extent{std::nan(""), 1}})
            QVERIFY(niceNumbers(none, 5).empty());
        QCOMPARE(axisText(-12500), std::string("−12\u2009500"));
        QCOMPARE(axisText(0.25), std::string("0.25"));
    }

    void placesOfABarAreOrderedAndClamped() {
        const QRectF room(10, 0, 100, 10);
        const Extent ends{-50, 150};
        QCOMPARE(placeOf(-50, ends, room), 10.0);
        QCOMPARE(placeOf(0, ends, room), 35.0);
        QCOMPARE(placeOf(150, ends, room), 110.0);
        for (const double past : {-1e300, -static_cast<double>(INFINITY)}) QCOMPARE(placeOf(past, ends, room), 10.0);
        for (const double past : {1e300, static_cast<double>(INFINITY)}) QCOMPARE(placeOf(past, ends, room), 110.0);
        QCOMPARE(placeOf(3, {7, 7}, room), 10.0);
        QCOMPARE(placeOf(3, {9, 2}, room), 10.0);
    }

    void everyColourIsLegible() {
        std::mt19937 random(3);
        for (const Theme theme : {Theme::Light, Theme::Dark}) {
            const Tokens& look = tokens(theme);
            for (int turn = 0; turn < 2000; ++turn) {
                const QColor own(random() % 256, random() % 256, random() % 256);
                QVERIFY(contrast(textInk(own.name().toStdString(), look, look.ink), look.paper) >= 4.45);
                QVERIFY(contrast(shapeInk(own.name().toStdString(), look, look.ink), look.paper) >= 2.95);
                if (contrast(own, look.paper) >= 4.5)
                    QCOMPARE(textInk(own.name().toStdString(), look, look.ink).name(), own.name());
            }
            for (const char* name : {"ink", "quiet", "teal", "buoy", "brass", "blue"})
                QVERIFY2(contrast(textInk(name, look, look.ink), look.paper) >= 4.5, name);
        }
        QCOMPARE(std::round(contrast(Qt::black, Qt::white)), 21.0);
    }
};

QTEST_MAIN(FaceLayoutTest)
#include "tst_face_layout.moc"
