// SPDX-License-Identifier: MIT
// A grid on an application's own objects, worked by keys and mouse: typed into, refused, added, deleted, changed by the
// application under it.
#include <QtTest>

#include "core/session/session.h"
#include "core/sources/objects/object_source.h"
#include "grid/api/grid.h"

using namespace jollyrow;

namespace {
struct Crate {
    std::string goods;
    std::optional<int> count;
    Date day{20'000};
};
}  // namespace

class ObjectGridTest : public QObject {
    Q_OBJECT
    std::unique_ptr<ObjectSource<Crate>> crates_;
    std::unique_ptr<Grid> grid_;

    QString text(std::int64_t line, const char* field) { return grid_->recordAt(line).text(field); }
    void type(std::int64_t line, const char* field, const QString& what) {
        QTest::mouseClick(grid_->viewport(), Qt::LeftButton, {}, grid_->places().cell(line, field).center());
        QTest::keyClicks(grid_.get(), what.left(1));
        QWidget* editor = QApplication::focusWidget();
        QTest::keyClicks(editor, what.mid(1));
        QTest::keyClick(editor, Qt::Key_Return);
    }

  private Q_SLOTS:
    void init() {
        crates_ = std::make_unique<ObjectSource<Crate>>("crates");
        crates_->field("goods", &Crate::goods);
        crates_->field("count", &Crate::count);
        crates_->field("day", &Crate::day);
        crates_->computed("many", [](const Crate& crate) { return crate.count.value_or(0) > 10; });
        crates_->check([](const Crate& c) { return c.goods.empty() ? std::string("Which goods?") : std::string(); },
                       {"goods"});
        crates_->set({{"Varnish", 4, {20'001}}, {"Rope", 20, {20'002}}, {"Caulk", {}, {20'000}}});
        grid_ = std::make_unique<Grid>();
        grid_->resize(700, 300);
        QVERIFY(grid_->open(*crates_).ok());
        grid_->show();
        QVERIFY(QTest::qWaitForWindowExposed(grid_.get()));
        grid_->activateWindow();
        QTRY_COMPARE(grid_->lineCount(), std::int64_t{3});
        QTRY_VERIFY(!grid_->isLoading());
    }
    void cleanup() {
        grid_.reset();
        crates_.reset();
    }

    void theyAreShownByTheirDeclarations() {
        QCOMPARE(text(1, "goods"), QString("Rope"));
        QCOMPARE(text(1, "count"), QString("20"));
        QCOMPARE(text(2, "count"), QString());
        QCOMPARE(grid_->recordAt(1).value("many"), Value(true));
        QVERIFY(grid_->findings().empty());
        grid_->setSort({{"day", Direction::Ascending, Empties::Last}});
        QTRY_COMPARE(text(0, "goods"), QString("Caulk"));
        QVERIFY(grid_->filters().set("some", "count > 3").ok());
        QTRY_COMPARE(grid_->lineCount(), std::int64_t{2});
        // The object of the record that is current.
        grid_->selection().setCurrentCell(0, 0);
        const Crate* current = crates_->of(grid_->selection().current().key());
        QVERIFY(current && current->goods == "Varnish");
    }

    void whatIsTypedIsInTheObjectAndWhatItRefusesIsNot() {
        type(0, "count", "12");
        QTRY_COMPARE(*crates_->find(1)->count, 12);
        QTRY_COMPARE(grid_->recordAt(0).value("many"), Value(true));
        type(0, "count", "99999999999");
        QTRY_COMPARE(grid_->records().unsaved(), std::size_t{1});
        QTRY_VERIFY(!grid_->records().changes().empty() &&
                    grid_->records().changes().front().message.contains("too large"));
        QCOMPARE(*crates_->find(1)->count, 12);
    }

    void whatTheApplicationDoesIsShown() {
        const ObjectId flags = crates_->add({"Flags", 1, {20'010}});
        crates_->change(2, [](Crate& crate) { crate.count = 5; });
        QTRY_COMPARE(grid_->lineCount(), std::int64_t{4});
        QCOMPARE(text(3, "goods"), QString("Flags"));
        QCOMPARE(text(1, "count"), QString("5"));
        QCOMPARE(grid_->recordAt(1).value("many"), Value(false));
        grid_->selection().setCurrentCell(3, 0);
        crates_->remove(2);
        QTRY_COMPARE(grid_->lineCount(), std::int64_t{3});
        QCOMPARE(crates_->of(grid_->selection().current().key()), crates_->find(flags));  // the same record is current
        crates_->set({{"Tar", 1, {1}}});
        QTRY_COMPARE(grid_->lineCount(), std::int64_t{1});
        QCOMPARE(text(0, "goods"), QString("Tar"));
    }

    /// An application that saves elsewhere first: it accepts later, or refuses at the record.
    void anApplicationDecidesLater() {
        std::optional<SaveReply> waiting;
        grid_->extensions().setSaver([&](const std::vector<SaveRequest>&, const SaveReply& reply) { waiting = reply; });
        type(0, "count", "7");
        QTRY_VERIFY(waiting.has_value());
        QCOMPARE(*crates_->find(1)->count, 4);
        std::exchange(waiting, std::nullopt)->refuse("The office is closed.", "count");
        QTRY_VERIFY(grid_->records().changes().size() == 1 &&
                    grid_->records().changes().front().message.contains("closed"));
        type(0, "count", "8");
        QTRY_VERIFY(waiting.has_value());
        waiting->store();  // into the object
        QTRY_COMPARE(*crates_->find(1)->count, 8);
        QTRY_COMPARE(grid_->records().unsaved(), std::size_t{0});
    }

    /// Another source is opened while a save waits to be called for: it is not, and nobody waits for it.
    void aSaveThatWaitsWhenAnotherIsOpenedIsLetGo() {
        type(0, "count", "31");
        QThread::msleep(60);  // it has been asked for, and not called for yet
        auto more = std::make_unique<ObjectSource<Crate>>("more");
        more->field("goods", &Crate::goods);
        more->set({{"Anchors", 2, {1}}});
        QVERIFY(grid_->open(*more).ok());
        QTRY_COMPARE(grid_->lineCount(), std::int64_t{1});
        QCOMPARE(*crates_->find(1)->count, 4);
        grid_.reset();  // before its objects
    }

    void anotherOpeningLetsThemGo() {
        auto more = std::make_unique<ObjectSource<Crate>>("more");
        more->field("goods", &Crate::goods);
        more->set({{"Anchors", 2, {1}}});
        QVERIFY(grid_->open(*more).ok());
        QTRY_COMPARE(grid_->lineCount(), std::int64_t{1});
        crates_->change(1, [](Crate& crate) { crate.goods = "not here"; });
        QTest::qWait(20);
        QCOMPARE(text(0, "goods"), QString("Anchors"));
        more.reset();  // the grid keeps what it shows
        QTest::qWait(20);
        QCOMPARE(text(0, "goods"), QString("Anchors"));
    }
};

QTEST_MAIN(ObjectGridTest)
#include "tst_object_grid.moc"
