// SPDX-License-Identifier: MIT
// The recipes of docs/recipes.md, compiled and run. The page must hold each of them word for word. With JOLLYROW_PICTURES
// set to a folder, a picture of each goes there.
#include <QtTest>

#include <QLineEdit>

#include "core/design/make_design.h"
#include "core/session/session.h"
#include "core/sources/objects/object_source.h"
#include "core/sources/source.h"
#include "demo/boatyard.h"
#include "grid/api/grid.h"
#include "grid/api/parameter_bar.h"
#include "grid/paint/looks.h"
#include "grid/pictures/picture_shelf.h"
#include "workbench/app/look.h"

using jollyrow::Grid;

class RecipesTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void initTestCase() {
        jollyrow::applyLook(*qApp, jollyrow::Theme::Light);
        path_ = folder_.filePath("kelpie-quay.db");
        QVERIFY(jollyrow::demo::makeBoatyard(path_.toStdString(), {400, 1}, {}).ok());
        QFile page(SOURCE_DIR "/docs/recipes.md");
        QVERIFY(page.open(QIODevice::ReadOnly));
        page_ = QString::fromUtf8(page.readAll());
        QFile own(SOURCE_DIR "/tests/docs/recipes_test.cpp");
        QVERIFY(own.open(QIODevice::ReadOnly));
        source_ = QString::fromUtf8(own.readAll());
    }
    void init() {
        grid_ = std::make_unique<Grid>();
        grid_->resize(1180, 210);
        auto source = jollyrow::openSource(path_.toStdString());
        jollyrow::Design design = jollyrow::designFor(*(*source)->schema({"jobs", "", {}}), {"sqlite", path_.toStdString(), "jobs", ""});
        QVERIFY(grid_->open(design, path_).ok());
        grid_->show();
        QVERIFY(QTest::qWaitForWindowExposed(grid_.get()));
        QTRY_COMPARE(grid_->lineCount(), 400);
        QTRY_VERIFY(!grid_->isLoading());
        QTRY_VERIFY(!grid_->recordAt(0).text("vessel").isEmpty());
    }
    /// The page has the recipe's code; its picture is made when asked for.
    void cleanup() {
        const QString name = QTest::currentTestFunction();
        const qsizetype start = source_.indexOf("// [" + name + "]");
        if (start < 0 || !grid_) return;
        const qsizetype from = source_.indexOf(u'\n', start) + 1, to = source_.indexOf("        // []", from);
        QStringList lines = source_.mid(from, to - from).split(u'\n');
        for (QString& line : lines) line = line.mid(8);
        QVERIFY2(page_.contains(lines.join(u'\n').trimmed()), "docs/recipes.md differs from this code");
        if (qEnvironmentVariableIsSet("JOLLYROW_PICTURES")) {
            QTest::qWait(250);
            QVERIFY(grid_->grab().save(qEnvironmentVariable("JOLLYROW_PICTURES") + "/" + name + ".png"));
        }
        grid_.reset();
        jollyrow::setApplicationLook({"yard"});
    }

    void heads() {
        Grid& grid = *grid_;
        // [heads]
        grid.column("number").setHeading("No.").setToolTip("Running number of the job").setWidth(58);
        // []
        QCOMPARE(grid.places().heading("number").width(), 58);
    }

    void days() {
        Grid& grid = *grid_;
        // [days]
        grid.column("due_on").setHeading("Due").setFormat("EEE d MMM").setEmptyText("not promised");
        // []
        QVERIFY(grid.recordAt(0).text("due_on").size() <= 10);
    }

    void money() {
        Grid& grid = *grid_;
        // [money]
        grid.column("labour").setHeading("Amount").setFormat("#,##0.00;(#,##0.00)").setSuffix(" EUR");
        // []
        QVERIFY(grid.recordAt(0).text("labour").endsWith(" EUR"));
    }

    void locale() {
        Grid& grid = *grid_;
        // [locale]
        grid.changeDesign([](jollyrow::Design& design) { design.locale = "de-DE"; });
        grid.column("due_on").setFormat("::yMMMEd");
        // []
        QVERIFY(grid.recordAt(0).text("labour").contains(","));
    }

    void words() {
        Grid& grid = *grid_;
        // [words]
        grid.column("paid").setFormat("paid;open").setAlignment(jollyrow::Alignment::Left);
        // []
        QVERIFY(grid.recordAt(0).text("paid") == "paid" || grid.recordAt(0).text("paid") == "open");
    }

    void duration() {
        Grid& grid = *grid_;
        // [duration]
        jollyrow::FormatSpec duration;
        duration.style = jollyrow::FormatStyle::Duration;
        duration.unit = jollyrow::DurationUnit::Hours;
        duration.pattern = "h:mm";
        grid.column("hours").setFormat(duration);
        // []
        QVERIFY(grid.recordAt(0).text("hours").contains(":"));
    }

    void message() {
        Grid& grid = *grid_;
        // [message]
        grid.column("work").setFormat("{work}, {hours, number, ::.0} h for {vessel}").setWidth(320);
        // []
        QTRY_VERIFY(grid.recordAt(0).text("work").contains(" h for "));
    }

    void tiers() {
        Grid& grid = *grid_;
        // [tiers]
        grid.tier("Labour").add("hours", "labour");
        grid.tier("Cost").addTier("Labour").add("parts").setToolTip("Without tax");
        // []
        QVERIFY(grid.places().tier("Cost").width() > grid.places().tier("Labour").width());
    }

    void fold() {
        Grid& grid = *grid_;
        // [fold]
        grid.tier("Cost").add("hours", "labour", "parts").setLead("labour").setFolded(true);
        // []
        QVERIFY(grid.places().heading("hours").isEmpty() && !grid.places().heading("labour").isEmpty());
    }

    void band() {
        Grid& grid = *grid_;
        // [band]
        grid.tier("Cost")
            .add("labour", "parts")
            .setLook(jollyrow::TierLook::Band)
            .setAlignment(jollyrow::Alignment::Center)
            .setColour("#135d58");
        // []
        QCOMPARE(grid.tier("Cost").settings().colour, std::string("#135d58"));
    }

    void related() {
        Grid& grid = *grid_;
        // [related]
        grid.changeDesign([](jollyrow::Design& design) {
            jollyrow::ColumnDesign owner;
            owner.field = "vessel.owner.name";
            owner.heading = "Owner";
            design.columns.insert(design.columns.begin() + 2, owner);
        });
        // []
        QTRY_VERIFY(!grid.recordAt(0).text("vessel.owner.name").isEmpty());
    }

    void widths() {
        Grid& grid = *grid_;
        // [widths]
        grid.column("work").setShare(2);
        grid.column("status").setShare(1);
        grid.changeDesign([](jollyrow::Design& design) { design.column("work")->width.minimum = 120; });
        // []
        QVERIFY(grid.places().heading("work").width() > grid.places().heading("status").width());
    }

    void pins() {
        Grid& grid = *grid_;
        // [pins]
        grid.changeDesign([](jollyrow::Design& design) {
            design.grid.pinned = 1;
            design.grid.pinnedRight = 1;
            design.grid.pinnedRecords = {{{"4010"}, jollyrow::PinnedRecord::Edge::Top}};
        });
        // []
        QCOMPARE(grid.design().grid.pinnedRecords.size(), std::size_t{1});
    }

    void lines() {
        Grid& grid = *grid_;
        // [lines]
        grid.column("status").setUnder("work").setSpan(2);
        // []
        QVERIFY(grid.places().cell(0, "status").top() > grid.places().cell(0, "work").top());
    }

    void wrap() {
        Grid& grid = *grid_;
        // [wrap]
        grid.changeDesign([](jollyrow::Design& design) { design.grid.lineHeight = jollyrow::LineHeight::Automatic; });
        grid.column("notes").setWrap(true).setWidth(190);
        grid.column("booked_on").setMerge(true);
        // []
        QVERIFY(grid.column("notes").settings().wrap);
    }

    void computed() {
        Grid& grid = *grid_;
        // [computed]
        jollyrow::ColumnDesign perHour;
        perHour.field = "per_hour";
        perHour.heading = "Per hour";
        perHour.rule = "ROUND((labour + parts) / hours, 2)";
        grid.changeDesign([&](jollyrow::Design& design) { design.columns.push_back(perHour); });
        grid.column("per_hour").setFormat("#,##0.00");
        // []
        QTRY_VERIFY(!grid.recordAt(0).text("per_hour").isEmpty());
        QVERIFY(grid.findings().empty());
    }

    void groups() {
        Grid& grid = *grid_;
        // [groups]
        grid.groups().add("status");
        grid.groups().add("due_on", jollyrow::GroupBy::Month);
        jollyrow::SummaryDesign count, hours, rate;
        count.name = "jobs";
        count.column = "number";
        count.show = jollyrow::SummaryShow::Count;
        count.caption = "{value} jobs";
        hours.name = "hours";
        hours.column = "hours";
        rate.name = "rate";
        rate.column = "labour";
        rate.show = jollyrow::SummaryShow::Rule;
        rate.rule = "SUM(labour) / SUM(hours)";
        grid.groups().setSummaries({count, hours, rate});
        // []
        QTRY_VERIFY(grid.groups().at(0) && grid.groups().at(1) && grid.groups().at(1)->level == 1);
        QTRY_VERIFY(!isEmpty(grid.groups().figure("rate", 1)));
        QVERIFY(grid.findings().empty());
    }

    void ranges() {
        Grid& grid = *grid_;
        // [ranges]
        jollyrow::SummaryDesign parts;
        parts.name = "parts";
        parts.column = "parts";
        jollyrow::GroupDesign ranges;
        ranges.key.field = "hours";
        ranges.by = jollyrow::GroupBy::Ranges;
        ranges.cuts = {"5", "10", "20"};
        ranges.caption = "{heading} {value}";
        ranges.orderBy = "parts";
        ranges.key.direction = jollyrow::Direction::Descending;
        ranges.open = false;
        ranges.colour = "#d3e9e6";
        ranges.weight = jollyrow::LineWeight::Medium;
        grid.groups().setSummaries({parts});
        grid.groups().set({ranges});
        // []
        QTRY_COMPARE(grid.lineCount(), std::int64_t{5});
        QTRY_VERIFY(grid.groups().at(0)->caption.startsWith("Hours "));
    }

    void parameters() {
        Grid& grid = *grid_;
        // [parameters]
        grid.changeDesign([](jollyrow::Design& design) {
            design.parameters = {{"least", "Hours from", jollyrow::Type::Decimal, "4"},
                                 {"until", "Due until", jollyrow::Type::Date, ""}};
            design.filter = {{"hours >= :least", "", "", true}, {"due_on <= :until", "", "", true}};
        });
        auto* search = new jollyrow::ParameterBar(grid);  // put above the grid in a layout
        // []
        const std::unique_ptr<jollyrow::ParameterBar> owner(search);
        QTRY_VERIFY(grid.session().snapshot()->filter.rowsOut < grid.session().snapshot()->source.rowsOut);
        const std::int64_t some = grid.lineCount();
        QTRY_VERIFY(search->entry("until"));
        QTest::keyClicks(search->entry("until"), "2026-10-01");
        QTRY_VERIFY(grid.lineCount() < some);
    }

    void reading() {
        Grid& grid = *grid_;
        const QString path = path_;
        grid.resize(540, 210);
        // [reading]
        jollyrow::Design design;
        design.source.query =
            "SELECT number, work, strftime('%d.%m.%Y', due_on) AS due, strftime('%s', booked_on) + 28800 AS booked, "
            "CASE WHEN paid THEN 'J' ELSE 'N' END AS paid FROM jobs";
        design.source.readAs["due"] = {jollyrow::StoredForm::Pattern, "dd.MM.yyyy"};
        design.source.readAs["booked"] = {jollyrow::StoredForm::Seconds};
        design.source.readAs["paid"] = {jollyrow::StoredForm::Words, {}, "J", "N"};
        design.source.zone = "Europe/Berlin";
        for (const char* field : {"number", "work", "due", "booked", "paid"}) {
            jollyrow::ColumnDesign column;
            column.field = field;
            column.heading = jollyrow::headingFor(field, false);
            design.columns.push_back(column);
        }
        const jollyrow::Result<void> opened = grid.open(design, path);
        // []
        QVERIFY(opened.ok());
        QTRY_COMPARE(grid.lineCount(), 400);
        QTRY_VERIFY(!grid.isLoading());
        const auto type = [&](const char* field) {
            const auto& schema = grid.session().schema();
            return schema.field(*schema.find(field)).type;
        };
        QVERIFY(type("due") == jollyrow::Type::Date && type("booked") == jollyrow::Type::Instant);
        QVERIFY(type("paid") == jollyrow::Type::Boolean);
        QVERIFY(grid.recordAt(0).text("booked").contains(':'));
    }

    void faces() {
        Grid& grid = *grid_;
        grid.resize(1300, 210);
        QString pressed;
        // [faces]
        using namespace jollyrow;
        grid.changeDesign([](Design& design) {
            design.grid.rowHeight = 40;
            design.faces = {
                {"vessel", face::column({face::row({face::field("vessel").sized(0, LineWeight::Medium),
                                                    face::mark({{"hours > 20", "buoy", MarkShape::Diamond, LineWeight::Theme,
                                                                 "long job"}})}),
                                         face::text("{vessel.owner.name}").sized(-2).quiet()})},
                {"hours", face::bar()},
                {"call", face::button("call", "Call")}};
            design.column("vessel")->face = "vessel";
            design.column("hours")->face = "hours";
            design.column("notes")->face = "call";
        });
        QObject::connect(&grid, &Grid::partPressed, [&](const Record& record, const QString& field, const QString& name) {
            pressed = name + " " + record.text("vessel") + " " + field;
        });
        // []
        QTRY_VERIFY(grid.session().schema().find("vessel.owner.name") && !grid.isLoading());
        QTRY_VERIFY(grid.recordAt(0).text("vessel").contains(' '));
        QVERIFY(grid.findings().empty());
        const QRect cell = grid.places().cell(1, "notes");
        QTest::mouseClick(grid.viewport(), Qt::LeftButton, {}, {cell.left() + 20, cell.center().y()});
        QVERIFY2(pressed.startsWith("call ") && pressed.endsWith(" notes"), qPrintable(pressed));
    }

    void styles() {
        Grid& grid = *grid_;
        // [styles]
        grid.changeDesign([](jollyrow::Design& design) {
            jollyrow::StyleDesign open, scale;
            open.name = "Open";
            open.where = "NOT paid";
            open.columns = {"work", "status"};
            open.ink = "buoy";
            open.weight = jollyrow::LineWeight::Medium;
            scale.name = "Hours";
            scale.columns = {"hours"};
            scale.lowest = "quiet";
            scale.highest = "brass";
            design.styles = {open, scale};
        });
        // []
        QVERIFY(grid.findings().empty());
        QTRY_COMPARE(grid.snapshot()->extents.size(), std::size_t{1});
    }

    void lines_of_groups() {
        Grid& grid = *grid_;
        // [lines_of_groups]
        using namespace jollyrow;
        grid.changeDesign([](Design& design) {
            GroupDesign status;
            status.key.field = "status";
            SummaryDesign sum;
            sum.name = "hours";
            sum.column = "hours";
            StyleDesign busy, load;
            busy.name = "Busy";
            busy.lines = StyledLines::Groups;
            busy.where = "COUNT(*) > 90";
            busy.ink = "buoy";
            load.name = "Load";
            load.lines = StyledLines::Groups;
            load.columns = {"hours"};
            load.icons = {{MarkShape::Ring, "blue"}, {MarkShape::Half, "blue"}, {MarkShape::Disc, "blue"}};
            design.groups = {status};
            design.summaries = {sum};
            design.styles = {busy, load};
        });
        // []
        QTRY_VERIFY(grid.snapshot()->grouped);
        QVERIFY(grid.findings().empty());
        grid.groups().closeAll();
        QTRY_VERIFY(grid.lineCount() < 10);
    }

    void links() {
        Grid& grid = *grid_;
        // [links]
        grid.changeDesign([](jollyrow::Design& design) {
            jollyrow::FacePart link = jollyrow::face::link("mail", "Write to {vessel.owner.name}");
            link.opens = "mailto:yard@kelpie-quay.example?subject=Job%20{number}";
            design.faces = {{"mail", std::move(link)}};
            design.column("notes")->face = "mail";
            design.grid.linkSchemes = {"mailto"};
        });
        // []
        QTRY_VERIFY(grid.session().schema().find("vessel.owner.name") && !grid.isLoading());
        QVERIFY(grid.findings().empty());
        QTRY_VERIFY(grid.recordAt(0).text("notes").startsWith("Write to "));
    }

    void checks() {
        Grid& grid = *grid_;
        // [checks]
        jollyrow::CheckDesign done, tall;
        done.name = "done jobs have hours";
        done.rule = "status <> 'Done' OR hours IS NOT NULL";
        done.message = "A job that is done says how long it took.";
        done.field = "hours";
        tall.name = "long jobs";
        tall.rule = "hours <= 40";
        tall.message = "{hours} hours: is that one job?";
        tall.warning = true;  // may be overridden
        grid.changeDesign([&](jollyrow::Design& design) { design.checks = {done, tall}; });
        grid.extensions().setCheck("office", "work", [](const jollyrow::EditedRecord& record) {
            return record("work") == jollyrow::Value(std::string("Crane")) ? "The office plans the crane." : QString();
        });
        // []
        QVERIFY(grid.findings().empty());
        grid.selection().showColumn("hours");
        QVERIFY(grid.records().setValue(grid.recordAt(1), "work", std::string("Crane")));
        QTRY_COMPARE(grid.records().changes().size(), std::size_t{1});
        QTRY_COMPARE(grid.records().changes()[0].message, QString("The office plans the crane."));
        QVERIFY(grid.records().setValue(grid.recordAt(2), "hours", jollyrow::Decimal{9900, 2}));
        QTRY_COMPARE(grid.records().changes().size(), std::size_t{2});
        QVERIFY(grid.records().changes()[1].message.contains("is that one job?"));
        grid.selection().setCurrentCell(1, 0);
        grid.selection().showColumn("work");
    }

    void pictures() {
        Grid& grid = *grid_;
        grid.resize(900, 210);
        // [pictures]
        using namespace jollyrow;
        grid.changeDesign([](Design& design) {
            PictureDesign fills;
            fills.fills = true;
            design.grid.rowHeight = 40;
            design.grid.pictureMegabytes = 16;
            design.faces = {{"boat", face::row({face::picture("vessel.picture", fills).fixed(40), face::field("vessel")})}};
            design.column("vessel")->face = "boat";
        });
        // []
        QTRY_VERIFY(grid.session().schema().find("vessel.picture") && !grid.isLoading());
        QVERIFY(grid.findings().empty());
        QSignalSpy arrived(&grid, &Grid::picturesArrived);
        grid.viewport()->grab();
        QTRY_VERIFY(arrived.count() > 0 || grid.pictures().held() > 0);
        QTest::qWait(100);
    }

    void banners() {
        Grid& grid = *grid_;
        // [banners]
        grid.changeDesign([](jollyrow::Design& design) {
            jollyrow::BannerDesign banner;
            banner.where = "NOT paid";
            banner.caption = "{work} of {vessel}, {status}";
            banner.heads = true;
            design.banners = {banner};
        });
        // []
        QVERIFY(grid.findings().empty());
        QTRY_COMPARE(grid.snapshot()->banners.size(), std::size_t{1});
        QVERIFY(grid.snapshot()->banners[0].set->count > 0);
    }

    void look() {
        Grid& grid = *grid_;
        const QColor before = grid.look().teal;
        // [look]
        jollyrow::LookDesign look;
        look.name = "Harbour office";
        look.base = "slate";
        look.light = {{"teal", "#8a3b12"}, {"panel", "#f3ece4"}};
        look.dark = {{"teal", "#e39a6c"}};
        jollyrow::setApplicationLook(look);
        // []
        QVERIFY(grid.look().teal != before);
    }

    void objects() {
        Grid& grid = *grid_;
        // [objects]
        struct Delivery {
            std::string goods;
            int crates = 0;
            std::chrono::year_month_day day = std::chrono::year(2026) / 12 / 1;
        };
        jollyrow::ObjectSource<Delivery> deliveries("deliveries");
        deliveries.field("goods", &Delivery::goods);
        deliveries.field("crates", &Delivery::crates);
        deliveries.field("day", &Delivery::day);
        deliveries.computed("weight", [](const Delivery& delivery) { return delivery.crates * 12.5; });
        deliveries.check([](const Delivery& delivery) { return delivery.crates < 0 ? "There are none, or some." : ""; }, {"crates"});
        deliveries.set({{"Varnish", 4}, {"Manila rope", 12}, {"Copper nails", 2}});
        if (!grid.open(deliveries)) return;

        const jollyrow::ObjectId flags = deliveries.add({"Signal flags", 1});  // shown at once
        deliveries.change(flags, [](Delivery& delivery) { delivery.crates = 3; });
        // []
        QTRY_COMPARE(grid.lineCount(), std::int64_t{4});
        QTRY_COMPARE(grid.recordAt(3).value("weight"), jollyrow::Value(37.5));
        QCOMPARE(deliveries.of(grid.recordAt(3).key())->goods, std::string("Signal flags"));
        if (qEnvironmentVariableIsSet("JOLLYROW_PICTURES")) cleanup();
    }

    void functions() {
        Grid& grid = *grid_;
        const QString databasePath = path_;
        // [functions]
        jollyrow::ExternalFunction initials;
        initials.name = "initials";
        initials.arguments = {jollyrow::RuleKind::Text};
        initials.result = jollyrow::RuleKind::Text;
        initials.isPure = true;  // asked once for each distinct text
        initials.call = [](std::span<const jollyrow::RuleValue> in) -> jollyrow::Result<jollyrow::RuleValue> {
            std::string out;
            bool begins = true;
            for (const char c : std::get<std::string>(in[0])) {
                if (begins) out += c;
                begins = c == ' ';
            }
            return jollyrow::RuleValue(out);
        };
        grid.extensions().registerFunction(initials);
        jollyrow::Design design = grid.design();
        jollyrow::ColumnDesign column;
        column.field = "short";
        column.heading = "Short";
        column.rule = "initials(work)";
        design.columns.insert(design.columns.begin(), column);
        if (!grid.open(design, databasePath)) return;
        // []
        QTRY_VERIFY(!grid.isLoading() && grid.lineCount() == 400);
        QTRY_COMPARE(grid.recordAt(0).text("short").left(1), grid.recordAt(0).text("work").left(1));
    }

  private:
    QTemporaryDir folder_;
    QString path_, page_, source_;
    std::unique_ptr<Grid> grid_;
};

QTEST_MAIN(RecipesTest)
#include "recipes_test.moc"
