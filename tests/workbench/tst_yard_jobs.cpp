// SPDX-License-Identifier: MIT
// The demo design "Yard jobs" made by hand: from the design a table gets by itself, by mouse and keyboard alone, saved
// and opened again; it is equal to the one that comes with the demo, which is made in C++.
#include <QtTest>

#include <QComboBox>
#include <QLineEdit>
#include <QSpinBox>
#include <QStandardPaths>

#include "core/design/design_file.h"
#include "core/design/make_design.h"
#include "core/design/tier_tree.h"
#include "core/session/session.h"
#include "demo/boatyard.h"
#include "workbench/app/look.h"
#include "workbench/app/main_window.h"
#include "workbench/build/build_page.h"
#include "workbench/build/columns_outline.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/fittings/fittings.h"

using namespace jollyrow;

class YardJobsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QCoreApplication::setApplicationName("jollyrow-test");
        applyLook(*qApp, Theme::Light);
    }

    void madeByMouseAndKeysItEqualsTheOneMadeInCpp() {
        QTemporaryDir folder;
        const QString database = folder.filePath("kelpie-quay.db"), file = folder.filePath("yard-jobs.jrow");
        QVERIFY(demo::makeBoatyard(database.toStdString(), {300, 3}, {}).ok());
        auto source = openSource(database.toStdString());
        const auto schema = (*source)->schema({"jobs", "", {}});
        QVERIFY(writeDesignFile(file.toStdString(), designFor(*schema, {"sqlite", "kelpie-quay.db", "jobs", ""})).ok());
        window_ = std::make_unique<MainWindow>();
        window_->resize(1700, 900);
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
        window_->activateWindow();
        window_->openPath(file);
        QTRY_COMPARE(grid().lineCount(), 300);
        QTRY_VERIFY(!grid().isLoading());

        const Design begun = design();

        // Out with what the yard does not want here, in with fields of other tables.
        for (const char* field : {"booked_on", "paid", "notes"}) {
            clickRow(field);
            QTest::keyClick(&outline(), Qt::Key_Delete);
            QVERIFY(!design().column(field));
        }
        for (const char* link : {"berth →", "berth.power", "vessel →", "vessel.length"})
            QTest::mouseClick(outline().viewport(), Qt::LeftButton, {}, outline().rowRect(link).center());
        QVERIFY(design().column("berth.power") && design().column("vessel.length"));
        QTRY_VERIFY(!grid().isLoading());
        QTRY_VERIFY(!grid().recordAt(1).text("vessel.length").isEmpty());
        QVERIFY(!grid().recordAt(1).text("vessel").isEmpty() && !grid().recordAt(1).text("vessel")[0].isDigit());

        // Headings dragged onto headings make and join tiers.
        dragHeading(grid().places().heading("berth").center(), upper(grid().places().heading("vessel")), "Vessel");
        dragRow("berth.power", outline().rowRect("berth"), 19);
        dragRow("vessel.length", outline().rowRect("berth.power"), 19);
        dragHeading(grid().places().heading("work").center(), upper(grid().places().heading("number")), "Job");
        dragHeading(grid().places().tier("Vessel").center(), grid().places().tier("Job").topLeft() + QPoint(4, 8));
        dragHeading(grid().places().heading("due_on").center(), grid().places().tier("Job").center());
        QCOMPARE(window_->document().undoLabel(), QString("Move Due on under Job"));
        dragHeading(grid().places().heading("status").center(), grid().places().tier("Job").center());
        dragHeading(grid().places().heading("labour").center(), upper(grid().places().heading("hours")), "Labour");
        clickHeading(grid().places().tier("Labour"));
        QCOMPARE(*window_->buildPage().selectedTier(), QString("Labour"));
        QTest::keyClick(window_.get(), Qt::Key_T, Qt::ControlModifier);
        nameTier("Cost");
        dragHeading(grid().places().heading("parts").center(), grid().places().tier("Cost").center());

        // Words, format, widths: in Fittings.
        const std::pair<const char*, const char*> headings[] = {{"vessel", "Name"},          {"berth.power", "Power"},
                                                                {"vessel.length", "Length"}, {"number", "No."},
                                                                {"due_on", "Due"},           {"labour", "Amount"}};
        for (const auto& [field, heading] : headings) {
            clickRow(field);
            type<QLineEdit>("Heading", heading);
        }
        clickRow("due_on");
        type<QLineEdit>("Pattern", "EEE d MMM");
        QTRY_VERIFY(grid().recordAt(0).text("due_on").size() <= 10);
        clickRow("vessel");
        chooseWidth(0);
        type<QSpinBox>("Width in pixels", "114");
        clickRow("work");
        chooseWidth(2);
        type<QSpinBox>("Least width", "88");
        type<QSpinBox>("Most width", "0");
        QTest::mouseClick(outline().viewport(), Qt::LeftButton, {}, outline().eyeRect("vessel.length").center());
        QTest::keyClick(window_.get(), Qt::Key_G, Qt::ControlModifier);
        type<QLineEdit>("Title", "Yard jobs");
        type<QSpinBox>("Columns pinned at the left", "1");
        QTest::keyClick(window_.get(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(!window_->document().isDirty());

        const Design byHand = readDesignFile(file.toStdString())->design;
        const Design inCpp = demo::yardJobsDesign("kelpie-quay.db");
        QCOMPARE(QString::fromStdString(toJson(byHand)), QString::fromStdString(toJson(inCpp)));
        QVERIFY(byHand == inCpp);
        // All of it can be taken back, step by step, to where it began, and done again.
        QStringList steps;
        for (; !window_->document().undoLabel().isEmpty(); window_->document().undo())
            steps.prepend(window_->document().undoLabel());
        QCOMPARE(QString::fromStdString(toJson(design())), QString::fromStdString(toJson(begun)));
        QVERIFY(steps.contains("Move Due on under Job") && steps.contains("New heading over Vessel and Berth") &&
                steps.contains("Take Paid out"));
        while (!window_->document().redoLabel().isEmpty()) window_->document().redo();
        QVERIFY(!window_->document().isDirty());
        // And opened again it is the same, with the same headings on the screen.
        window_ = std::make_unique<MainWindow>();
        window_->resize(1700, 900);
        window_->show();
        window_->openPath(file);
        QTRY_COMPARE(grid().lineCount(), 300);
        QVERIFY(design() == byHand);
        QVERIFY(grid().places().tier("Cost").contains(grid().places().tier("Labour").center().x(), 5));
        QVERIFY(grid().findings().empty());
        window_.reset();
    }

  private:
    Grid& grid() { return window_->buildPage().grid(); }
    ColumnsOutline& outline() { return window_->buildPage().outline(); }
    const Design& design() { return window_->document().design(); }
    /// Above the part of a heading where something would be put beneath it.
    static QPoint upper(const QRect& heading) { return {heading.center().x(), heading.bottom() - 16}; }
    void clickRow(const char* field) {
        QTest::mouseClick(outline().viewport(), Qt::LeftButton, {}, outline().rowRect(field).center() - QPoint(30, 0));
    }
    void clickHeading(const QRect& rect) {
        QTest::mouseClick(grid().viewport(), Qt::LeftButton, {}, rect.topLeft() + QPoint(20, 6));
    }
    void drag(QWidget* on, QPoint from, QPoint to) {
        QTest::mousePress(on, Qt::LeftButton, {}, from);
        for (int step = 1; step <= 6; ++step) QTest::mouseMove(on, from + (to - from) * step / 6);
        QTest::mouseRelease(on, Qt::LeftButton, {}, to);
    }
    void dragHeading(QPoint from, QPoint to, const char* name = nullptr) {
        drag(grid().viewport(), from, to);
        if (name) nameTier(name);
    }
    void nameTier(const char* name) {
        QLineEdit* entry = nullptr;  // one that has been closed may still wait to be deleted
        for (QLineEdit* candidate : grid().viewport()->findChildren<QLineEdit*>("headingEntry"))
            if (candidate->isVisible()) entry = candidate;
        QVERIFY(entry);
        QTest::keyClicks(entry, name);
        QTest::keyClick(entry, Qt::Key_Return);
        QVERIFY(design().findTier(name));
    }
    void dragRow(const char* field, const QRect& onto, int belowTop) {
        const QPoint from = outline().rowRect(field).center() - QPoint(30, 0);
        drag(outline().viewport(), from, QPoint(from.x(), onto.top() + belowTop));
    }
    void chooseWidth(int part) {
        auto* mode = fitting<QSpinBox>("Width in pixels")->parentWidget()->findChild<SegmentedSwitch*>();
        QTest::mouseClick(mode, Qt::LeftButton, {}, QPoint(mode->width() * (2 * part + 1) / 6, mode->height() / 2));
    }
    template <class W>
    W* fitting(const QString& accessibleName) {
        for (W* widget : window_->buildPage().fittings().template findChildren<W*>())
            if (widget->accessibleName() == accessibleName) return widget;
        return nullptr;
    }
    template <class W>
    void type(const QString& accessibleName, const char* text) {
        W* entry = fitting<W>(accessibleName);
        QVERIFY(entry);
        entry->selectAll();
        QTest::keyClicks(entry, text);
        QTest::keyClick(entry, Qt::Key_Return);
    }
    std::unique_ptr<MainWindow> window_;
};

QTEST_MAIN(YardJobsTest)
#include "tst_yard_jobs.moc"
