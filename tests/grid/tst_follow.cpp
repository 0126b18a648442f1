// SPDX-License-Identifier: MIT
// What others save, in a real grid: the record goes where it belongs, lights up and fades; what one is at stays.
#include <QtWidgets>

#include "tests/grid/window_helpers.h"

using namespace jollyrow;

class FollowGridTest : public QObject {
    Q_OBJECT
    std::unique_ptr<WindowHelpers> w_;
    Grid& grid() { return w_->grid(); }
    /// What is behind a record, at its left end.
    QColor behind(std::int64_t line, int across = 8) {
        const QImage image = w_->viewport()->grab().toImage();
        const QRect rect = grid().places().line(line);
        return image.pixelColor(static_cast<int>((rect.left() + across) * image.devicePixelRatio()),
                                static_cast<int>((rect.top() + 4) * image.devicePixelRatio()));
    }
    /// The bar at its left end, for which the colour behind may be a style's.
    QColor edge(std::int64_t line) { return behind(line, 1); }
    std::int64_t lineOf(int number) { return w_->lineWhere("number", QString::number(number)); }

  private Q_SLOTS:
    void init() {
        w_ = std::make_unique<WindowHelpers>();
        Design design = w_->design();
        design.grid.followsOthers = true;
        design.grid.crossLight = design.grid.stripes = false;
        QVERIFY(w_->open(design));
        QTest::qWait(800);  // it looks, and has compared once
    }
    void cleanup() { w_.reset(); }

    void aChangedRecordLightsUpAndFades() {
        const QColor paper = behind(2);
        QSignalSpy told(&grid(), &Grid::changedElsewhere);
        w_->outside("UPDATE jobs SET hours = hours + 1 WHERE number = 3");
        QTRY_COMPARE(told.size(), 1);
        QCOMPARE(told.front().front().toInt(), 1);
        const std::int64_t line = lineOf(3);
        QVERIFY(behind(line) != paper);
        QVERIFY(edge(line) != behind(line));
        QCOMPARE(behind(lineOf(2)), paper);
        QCOMPARE(edge(lineOf(2)), paper);
        QTRY_COMPARE_WITH_TIMEOUT(behind(lineOf(3)), paper, 4000);
        QTRY_COMPARE(edge(lineOf(3)), paper);
    }

    void whatOneIsAtStays() {
        w_->choose(4, "hours");
        const auto number = w_->text(4, "number");
        w_->key(Qt::Key_F2);
        QTRY_VERIFY(w_->entry());
        QTest::keyClicks(w_->entry(), "4");
        QSignalSpy told(&grid(), &Grid::changedElsewhere);
        w_->outside("DELETE FROM jobs WHERE number = 1; UPDATE jobs SET hours = 1 WHERE number = 2");
        QTRY_VERIFY(!told.isEmpty());
        QVERIFY2(w_->entry(), qPrintable(grid().message()));
        QTest::keyClicks(w_->entry(), ".25");
        QTest::keyClick(w_->entry(), Qt::Key_Return);
        QTRY_COMPARE(w_->stored(qPrintable("SELECT hours FROM jobs WHERE number = " + number)), "4.25");
        QCOMPARE(lineOf(1), std::int64_t(-1));
    }

    void switchedOffNothingIsLookedFor() {
        grid().changeDesign([](Design& d) { d.grid.followsOthers = false; });
        QSignalSpy told(&grid(), &Grid::changedElsewhere);
        w_->outside("UPDATE jobs SET hours = hours + 1 WHERE number = 3");
        QTest::qWait(900);
        QVERIFY(told.isEmpty());
        grid().changeDesign([](Design& d) { d.grid.followsOthers = true; });
        QTRY_VERIFY(!told.isEmpty());
    }
};

QTEST_MAIN(FollowGridTest)
#include "tst_follow.moc"
