// SPDX-License-Identifier: MIT
// Thousands of random gestures on the Build screen, with what must hold after each: the grid shows the document's
// design, columns stand in the design's order, what sorts is in order, and undo leads back to the start and forth
// again.
#include <QtTest>

#include <QClipboard>
#include <QGuiApplication>
#include <QStandardPaths>

#include <array>
#include <random>

#include "core/design/design_file.h"
#include "core/session/session.h"
#include "demo/boatyard.h"
#include "workbench/app/look.h"
#include "workbench/app/main_window.h"
#include "workbench/build/build_page.h"
#include "workbench/build/columns_outline.h"
#include "workbench/rowline/rowline_bar.h"

using namespace jollyrow;

class RandomWalkTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        QStandardPaths::setTestModeEnabled(true);
        QCoreApplication::setApplicationName("jollyrow-walk");
        applyLook(*qApp, Theme::Dark);
    }

    void walk_data() {
        QTest::addColumn<unsigned>("seed");
        for (const unsigned seed : {1u, 2u, 3u}) QTest::addRow("seed %u", seed) << seed;
    }
    void walk() {
        QFETCH(unsigned, seed);
        QTemporaryDir folder;
        const QString database = folder.filePath("yard.db"), design = folder.filePath("yard.jrow");
        QVERIFY(demo::makeBoatyard(database.toStdString(), {200, seed}, {}).ok());
        QVERIFY(writeDesignFile(design.toStdString(), demo::yardJobsDesign("yard.db")).ok());
        MainWindow window;
        window.resize(1100, 700);
        window.show();
        window.openPath(design);
        BuildPage& build = window.buildPage();
        Grid& grid = build.grid();
        Document& document = window.document();
        QTRY_VERIFY(!grid.isLoading() && grid.lineCount() == 200);
        const Design start = document.design();
        std::mt19937 random(seed);
        int steps = 0;
        for (int gesture = 0; gesture < 160; ++gesture) {
            const std::string field = start.columns[random() % start.columns.size()].field;
            const QString name = QString::fromStdString(field);
            const Design before = document.design();
            const bool isShown = !grid.places().heading(name).isEmpty() && grid.places().heading(name).width() > 20;
            QWidget* viewport = grid.viewport();
            switch (random() % 9) {
                case 0:
                    if (isShown)
                        QTest::mouseClick(viewport, Qt::LeftButton, random() % 2 ? Qt::ControlModifier : Qt::NoModifier,
                                          grid.places().heading(name).center());
                    break;
                case 1:
                    drag(viewport, isShown ? grid.places().heading(name).center() : QPoint(5, 5),
                         QPoint(static_cast<int>(random() % 800), 12));
                    break;
                case 2:
                    if (isShown)
                        drag(viewport, QPoint(grid.places().heading(name).right() + 1, 12),
                             QPoint(grid.places().heading(name).right() + static_cast<int>(random() % 200) - 90, 12));
                    break;
                case 3:
                    QTest::mouseClick(build.outline().viewport(), Qt::LeftButton, {},
                                      build.outline().eyeRect(name).center());
                    break;
                case 4:
                    build.selectColumn(name);
                    build.moveSelected(random() % 2 ? 1 : -1);
                    break;
                case 5: document.undo(); break;
                case 6: document.redo(); break;
                case 7:
                    QTest::keyClick(&grid,
                                    static_cast<Qt::Key>(std::array{Qt::Key_Down, Qt::Key_End, Qt::Key_PageDown,
                                                                    Qt::Key_Home, Qt::Key_Right}[random() % 5]),
                                    random() % 2 ? Qt::ControlModifier : Qt::NoModifier);
                    break;
                default:
                    drag(viewport, isShown ? grid.places().heading(name).center() : QPoint(5, 5),
                         viewport->mapFromGlobal(
                             build.rowline().mapToGlobal(build.rowline().stationRect(Stage::Sort).center())));
                    break;
            }
            steps += document.design() != before ? 1 : 0;
            QVERIFY2(holds(grid, document), qPrintable(QString("gesture %1").arg(gesture)));
        }
        QVERIFY2(steps > 40, qPrintable(QString::number(steps)));
        while (!document.undoLabel().isEmpty()) document.undo();
        QVERIFY(document.design() == start);
        QVERIFY(!document.isDirty());
        while (!document.redoLabel().isEmpty()) document.redo();
        QTRY_VERIFY(holds(grid, document));
        const Design last = document.design();
        const auto again = designFromJson(toJson(last));
        QVERIFY(again.ok() && again->design == last && again->findings.empty());
        QVERIFY(document.save(design).ok());
    }

  private:
    static void drag(QWidget* widget, QPoint from, QPoint to) {
        QTest::mousePress(widget, Qt::LeftButton, {}, from);
        for (int step = 1; step <= 4; ++step) QTest::mouseMove(widget, from + (to - from) * step / 4);
        QTest::mouseRelease(widget, Qt::LeftButton, {}, to);
    }

    /// The invariants; waits for the worker where the sort is still on its way.
    static bool holds(Grid& grid, Document& document) {
        if (grid.design() != document.design()) return qWarning("designs differ"), false;
        int right = -1;
        for (const PlannedColumn& column : grid.session().plan().columns) {
            const QRect rect = grid.places().heading(QString::fromStdString(column.design.field));
            if (rect.isEmpty()) continue;
            if (rect.right() < right) return qWarning("columns out of order"), false;
            right = rect.right();
        }
        QElapsedTimer timer;
        timer.start();
        do {
            if (isSorted(grid)) return grid.lineCount() == 200 && showsItsValues(grid);
            QCoreApplication::processEvents(QEventLoop::AllEvents, 5);
        } while (timer.elapsed() < 30'000);
        return qWarning("not sorted"), false;
    }

    /// The cells of a line, as copied, are those of its record under the columns of the plan.
    static bool showsItsValues(Grid& grid) {
        const auto& columns = grid.session().plan().columns;
        if (columns.empty()) return true;
        grid.selection().setCurrentCell(17, 0);
        QTest::keyClick(&grid, Qt::Key_C, Qt::ControlModifier);
        const QStringList cells = QGuiApplication::clipboard()->text().chopped(1).split('\t');
        if (cells.size() != static_cast<qsizetype>(columns.size())) return qWarning() << cells << columns.size(), false;
        for (qsizetype i = 0; i < cells.size(); ++i)
            if (cells[i] != grid.recordAt(17).text(columns[static_cast<std::size_t>(i)].design.field))
                return qWarning() << cells << i, false;
        return true;
    }

    static bool isSorted(Grid& grid) {
        const auto& sort = grid.session().plan().sort;
        if (sort.empty()) return grid.snapshot()->order == nullptr;
        if (!grid.snapshot()->order) return false;
        const Column* column = grid.snapshot()->table->column(*sort[0].field);
        const auto rank = [&](std::int64_t line) -> std::pair<int, std::int64_t> {
            const SourceRow row = grid.snapshot()->line(static_cast<ViewLine>(line)).row;
            if (column->isEmpty(row)) return {1, 0};
            const std::int64_t value = column->integer(row);
            return {0, sort[0].direction == Direction::Ascending ? value : -value};
        };
        if (!isIntegral(column->type())) return true;  // text order is the business of order_test
        for (std::int64_t line = 1; line < grid.lineCount(); ++line)
            if (rank(line) < rank(line - 1)) return false;
        return true;
    }
};

QTEST_MAIN(RandomWalkTest)
#include "tst_random_walk.moc"
