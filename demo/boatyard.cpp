// SPDX-License-Identifier: MIT
#include "demo/boatyard.h"

#include <fmt/format.h>
#include <unistd.h>

#include <cstdio>
#include <filesystem>

#include "core/base/source_address.h"
#include "core/columns/civil.h"
#include "core/columns/decimal.h"
#include "core/design/grouping.h"
#include "core/design/make_design.h"
#include "core/design/tier_tree.h"
#include "core/sources/sqlite/sqlite_connection.h"
#include "core/sources/sqlite/sqlite_schema.h"
#include "core/sources/sqlite/sqlite_values.h"
#include "demo/boatyard_tables.h"
#include "demo/random.h"
#include "demo/vessel_picture.h"
#include "demo/words.h"

namespace jollyrow::demo {
namespace {

constexpr std::int64_t kFirstJob = 4001;
const std::int32_t kYardDay =
    *daysFromCivil({2026, 11, 23});  // the yard's "today": content does not depend on the clock

class Insert {
  public:
    Insert(sqlite3* connection, const std::string& table, int columns) {
        std::string marks;
        for (int i = 1; i <= columns; ++i) marks += fmt::format("{}?{}", i == 1 ? "" : ", ", i);
        if (auto made = sqlite::prepare(connection, "INSERT INTO " + table + " VALUES (" + marks + ")"))
            statement_ = std::move(*made);
    }
    bool row(std::initializer_list<Value> values) {
        int index = 0;
        for (const Value& value : values) sqlite::bindValue(statement_.get(), ++index, value);
        const bool done = sqlite3_step(statement_.get()) == SQLITE_DONE;
        sqlite3_reset(statement_.get());
        return done;
    }

  private:
    sqlite::Statement statement_;
};

Value text(std::string_view words) { return std::string(words); }

class Boatyard {
  public:
    Boatyard(sqlite3* connection, const BoatyardSize& size, const std::function<void(double)>& onProgress,
             const Cancel& cancel)
        : connection_(connection),
          size_(size),
          onProgress_(onProgress),
          cancel_(cancel),
          random_(size.seed * 0x2545f4914f6cdd1dULL + 11) {
        owners_ = size.jobs / 14 + 24;
        vessels_ = size.jobs / 9 + 36;
        berths_ = std::min<std::int64_t>(size.jobs / 40 + 48, 600);
    }

    bool fill() { return makeOwners() && makeVessels() && makeBerths() && makeReadings() && makeJobs(); }

  private:
    bool makeOwners() {
        Insert insert(connection_, "owners", 5);
        for (std::int64_t id = 1; id <= owners_; ++id) {
            const Value town = random_.oneIn(9) ? Value(Empty{}) : text(random_.pick(kTowns));
            const Value phone =
                random_.oneIn(6)
                    ? Value(Empty{})
                    : Value(fmt::format("0{} 555 {:04}", random_.between(20, 79), random_.between(0, 9999)));
            if (!insert.row({id, fmt::format("{} {}", random_.pick(kFirstNames), random_.pick(kLastNames)), town, phone,
                             Date{static_cast<std::int32_t>(kYardDay - random_.between(30, 9000))}}))
                return false;
        }
        return true;
    }

    bool makeVessels() {
        std::vector<std::string> pictures;
        for (int n = 0; n < kVesselPictures; ++n) pictures.push_back(vesselPicture(n));
        Insert insert(connection_, "vessels", 9);
        for (std::int64_t id = 1; id <= vessels_; ++id) {
            std::string name = random_.oneIn(3)
                                   ? std::string(random_.pick(kVesselLast))
                                   : fmt::format("{} {}", random_.pick(kVesselFirst), random_.pick(kVesselLast));
            if (id > 900) name += fmt::format(" {}", 2 + id % 7);
            const Value insured = random_.oneIn(11)
                                      ? Value(Empty{})
                                      : Value(Date{static_cast<std::int32_t>(kYardDay + random_.between(-200, 700))});
            const Value hull = random_.oneIn(8)
                                   ? Value(Empty{})
                                   : Value(fmt::format("KQ-{}{}", static_cast<char>('A' + id % 26), 1000 + id));
            const Value notes = random_.oneIn(4) ? text(random_.pick(kNotes)) : Value(Empty{});
            const std::size_t picture = static_cast<std::size_t>(random_.next() % pictures.size());
            if (!insert.row({id, name, random_.between(1, owners_), text(random_.pick(kKinds)),
                             Decimal{random_.between(480, 2450), 2}, insured, hull,
                             random_.oneIn(20) ? Value(Empty{}) : Value(Bytes{pictures[picture]}), notes}))
                return false;
        }
        return true;
    }

    /// Kilowatt hours of the last fourteen days as a JSON array; a day on which nobody read the meter is null.
    static std::string powerOfWeek(std::int64_t berth) {
        std::string list = "[";
        for (std::int64_t day = 0; day < 14; ++day) {
            const std::int64_t tenths = 20 + (berth * 53 + day * day * 31 + day * berth * 17) % 160 + day * (berth % 7);
            const bool isRead = (berth * 7 + day * 13) % 29 != 0;
            list += day == 0 ? "" : ", ";
            list += isRead ? fmt::format("{}.{}", tenths / 10, tenths % 10) : "null";
        }
        return list + "]";
    }

    bool makeBerths() {
        Insert insert(connection_, "berths", 6);
        for (std::int64_t id = 1; id <= berths_; ++id) {
            const auto dock = static_cast<std::size_t>(id % static_cast<std::int64_t>(kDocks.size()));
            if (!insert.row({id,
                             fmt::format("{}{}", static_cast<char>('A' + dock),
                                         1 + id / static_cast<std::int64_t>(kDocks.size())),
                             text(kDocks[dock]), Decimal{random_.between(120, 480), 2},
                             Decimal{(id * 37) % 97 < 20 ? 0 : 15 + (id * 53) % 620, 2}, text(powerOfWeek(id))}))
                return false;
        }
        return true;
    }

    bool makeReadings() {
        Insert insert(connection_, "meter_readings", 3);
        for (std::int64_t berth = 1; berth <= berths_; ++berth) {
            std::int64_t kwh = random_.between(1000, 900'000);
            for (int reading = 48; reading > 0; --reading) {
                kwh += random_.between(0, 9000);
                const std::int64_t at = (static_cast<std::int64_t>(kYardDay) * 24 - reading * 6) * 3'600'000'000;
                if (!insert.row({berth, Timestamp{at}, Decimal{kwh, 3}})) return false;
            }
        }
        return true;
    }

    std::string_view statusOf(std::int32_t due) {
        if (due < kYardDay - 20) return random_.oneIn(25) ? "Waiting for parts" : "Done";
        if (due < kYardDay + 10) return kStatuses[static_cast<std::size_t>(random_.between(2, 4))];
        return kStatuses[static_cast<std::size_t>(random_.between(0, 2))];
    }

    Value jobNotes() {
        if (!random_.oneIn(5)) return Empty{};
        std::string notes(random_.pick(kNotes));
        const bool isLong = random_.oneIn(12);
        for (std::int64_t more = isLong ? random_.between(4, 14) : random_.between(0, 1); more > 0; --more)
            notes += fmt::format(" {}", random_.pick(kNotes));
        return notes;
    }

    bool makeJobs() {
        Insert jobs(connection_, "jobs", 12), lines(connection_, "job_lines", 8);
        std::int64_t lineId = 0;
        for (std::int64_t n = 0; n < size_.jobs; ++n) {
            const std::int64_t number = kFirstJob + n;
            const auto booked = static_cast<std::int32_t>(
                kYardDay - 900 + n * 930 / std::max<std::int64_t>(size_.jobs, 1) + random_.between(-15, 15));
            const auto due = static_cast<std::int32_t>(booked + random_.between(0, 60));
            const bool hasDue = !random_.oneIn(24);
            const std::string_view status = statusOf(due);
            const std::int64_t quarters = random_.between(1, 96);
            const std::int64_t rate = random_.between(9, 17) * 400;  // cents an hour
            const std::int64_t labour = quarters * rate / 4;
            const std::int64_t partCount = random_.between(0, 2);
            std::int64_t parts = 0;
            std::vector<std::pair<std::int64_t, std::int64_t>> bought;
            for (std::int64_t p = 0; p < partCount; ++p) {
                bought.emplace_back(random_.between(1, 4), random_.between(350, 48'000));
                parts += bought.back().first * bought.back().second;
            }
            const bool quotedOnly = status == "Quoted" && random_.oneIn(3);
            if (!jobs.row({number, random_.between(1, vessels_),
                           random_.oneIn(7) ? Value(Empty{}) : Value(random_.between(1, berths_)),
                           text(random_.pick(kWork)), text(status), Date{booked},
                           hasDue ? Value(Date{due}) : Value(Empty{}),
                           quotedOnly ? Value(Empty{}) : Value(Decimal{quarters * 25, 2}), Decimal{labour, 2},
                           Decimal{parts, 2}, status == "Done" && !random_.oneIn(6), jobNotes()}))
                return false;
            std::int64_t position = 0;
            if (!lines.row({++lineId, number, ++position, text("labour"), text(random_.pick(kWork)), Date{booked},
                            Decimal{quarters * 25, 2}, Decimal{rate, 2}}))
                return false;
            for (const auto& [count, price] : bought)
                if (!lines.row({++lineId, number, ++position, text("part"), text(random_.pick(kParts)), Empty{},
                                Decimal{count * 100, 2}, Decimal{price, 2}}))
                    return false;
            if (n % 256 == 0 && cancel_.requested()) return false;
            if (onProgress_ && n % 8192 == 0) onProgress_(static_cast<double>(n) / static_cast<double>(size_.jobs));
        }
        return true;
    }

    sqlite3* connection_;
    BoatyardSize size_;
    const std::function<void(double)>& onProgress_;
    const Cancel& cancel_;
    Random random_;
    std::int64_t owners_ = 0, vessels_ = 0, berths_ = 0;
};

}  // namespace

Result<void> makeBoatyard(const std::string& path, const BoatyardSize& size,
                          const std::function<void(double)>& onProgress, const Cancel& cancel) {
    const std::string beside = fmt::format("{}.{}.part", path, getpid());
    std::remove(beside.c_str());
    const auto giveUp = [&beside](Error error) {
        std::remove(beside.c_str());
        return error;
    };
    {
        auto connection = sqlite::open(beside, sqlite::OpenMode::Create);
        if (!connection) return giveUp(connection.error());
        sqlite3* handle = connection->get();
        for (const char* sql :
             {"PRAGMA page_size = 8192", "PRAGMA journal_mode = OFF", "PRAGMA synchronous = OFF", "BEGIN", kTables})
            if (auto done = sqlite::execute(handle, sql); !done) return giveUp(done.error());
        if (!Boatyard(handle, size, onProgress, cancel).fill())
            return giveUp(cancel.requested() ? Error{ErrorCode::Cancelled, "Making the boatyard was stopped."}
                                             : sqlite::errorOf(handle, "Making the boatyard"));
        for (const char* sql :
             {"CREATE INDEX job_lines_job ON job_lines(job)", "CREATE INDEX jobs_vessel ON jobs(vessel)", "COMMIT"})
            if (auto done = sqlite::execute(handle, sql); !done) return giveUp(done.error());
    }
    std::error_code failure;
    std::filesystem::rename(beside, path, failure);
    if (failure) return giveUp({ErrorCode::Io, fmt::format("Writing {} failed: {}.", path, failure.message())});
    if (onProgress) onProgress(1);
    return {};
}

Design yardJobsDesign(const std::string& databaseName) {
    Design design;
    design.title = "Yard jobs";
    design.source = {sourceKindOf(databaseName), databaseName, "jobs", ""};
    design.grid.pinned = 1;
    const auto add = [&design](const char* field, Type type, const char* heading) -> ColumnDesign& {
        ColumnDesign column;
        column.field = field;
        column.type = type;
        column.heading = heading;
        column.width.maximum = 320;
        design.columns.push_back(column);
        return design.columns.back();
    };
    Width& name = add("vessel", Type::Integer, "Name").width;
    name.mode = WidthMode::Fixed;
    name.pixels = 114;
    add("berth", Type::Integer, "Berth");
    add("berth.power", Type::Decimal, "Power");
    add("vessel.length", Type::Decimal, "Length").shown = false;
    add("number", Type::Integer, "No.");
    Width& work = add("work", Type::Text, "Work").width;
    work.mode = WidthMode::Share;
    work.minimum = 88;
    work.maximum = 0;
    add("due_on", Type::Date, "Due").format = formatFor("EEE d MMM", false);
    add("status", Type::Text, "Status");
    add("hours", Type::Decimal, "Hours");
    add("labour", Type::Decimal, "Amount");
    add("parts", Type::Decimal, "Parts");
    design.tier("Vessel").add("vessel", "berth", "berth.power", "vessel.length");
    design.tier("Job").add("number", "work", "due_on", "status");
    design.tier("Labour").add("hours", "labour");
    design.tier("Cost").addTier("Labour").add("parts");
    return design;
}

namespace {

std::vector<FaceDesign> boardFaces() {
    const auto status = [](const char* value, MarkShape shape, const char* ink) {
        return FaceRule{std::string("value = '") + value + "'", ink, shape};
    };
    FacePart mark =
        face::mark({status("Quoted", MarkShape::Ring, "quiet"), status("Booked", MarkShape::Half, "brass"),
                    status("In hand", MarkShape::Disc, "blue"), status("Waiting for parts", MarkShape::Clock, "buoy"),
                    status("Done", MarkShape::Tick, "teal")});
    PictureDesign filled;
    filled.fills = true;
    BarDesign cost;
    cost.fields = {"labour", "parts"};
    return {
        {"Vessel",
         face::row({face::picture("vessel.picture", filled).fixed(38),
                    face::column({face::row({face::field("vessel").sized(0, LineWeight::Medium),
                                             face::mark({{"vessel.insured_until < DATE '2026-11-23'", "buoy",
                                                          MarkShape::Diamond, LineWeight::Theme, "insurance run out"},
                                                         {"vessel.insured_until IS NOT NULL", "teal", MarkShape::Tick,
                                                          LineWeight::Theme, "insured"}})
                                                 .withToolTip("insured until {vessel.insured_until}")}),
                                  face::text("{vessel.owner.name} · {vessel.length} m").sized(-2).quiet()})
                        .share()})},
        {"Berth", face::row({face::column({face::field("berth"),
                                           face::text("{berth.power} kW").sized(-2).quiet().when("berth IS NOT NULL")}),
                             face::trend("berth.power_week", TrendLook::Area)})},
        {"Work", face::column({face::field("work").sized(0, LineWeight::Medium),
                               face::text("{notes}").sized(-2).quiet().when("notes IS NOT NULL")})},
        {"Status", face::row({std::move(mark), face::field()})},
        {"Hours", face::bar()},
        {"Cost", face::bar({}, cost)}};
}

std::vector<StyleDesign> boardStyles() {
    StyleDesign overdue, waiting;
    overdue.name = "Overdue";
    overdue.where = "status <> 'Done' AND due_on < DATE '2026-11-23'";
    overdue.columns = {"due_on"};
    overdue.ink = "buoy";
    overdue.weight = LineWeight::Medium;
    overdue.icons = {{MarkShape::Clock, "buoy"}};
    waiting.name = "Waiting";
    waiting.where = "status = 'Waiting for parts'";
    waiting.background = "brass";
    StyleDesign dear;
    dear.name = "Parts";
    dear.columns = {"parts"};
    dear.lowest = "#fdfaf2";
    dear.highest = "#dfbb6c";
    return {overdue, waiting, dear};
}

}  // namespace

Design yardBoardDesign(const std::string& databaseName) {
    Design design = yardJobsDesign(databaseName);
    design.title = "Yard board";
    design.grid.rowHeight = 38;
    design.faces = boardFaces();
    const std::pair<const char*, const char*> faces[] = {{"vessel", "Vessel"}, {"berth", "Berth"}, {"work", "Work"},
                                                         {"status", "Status"}, {"hours", "Hours"}, {"labour", "Cost"}};
    for (const auto& [field, face] : faces) design.column(field)->face = face;
    const std::pair<const char*, int> widths[] = {{"vessel", 214}, {"berth", 128}, {"hours", 136}, {"labour", 168}};
    for (const auto& [field, pixels] : widths) {
        design.column(field)->width.mode = WidthMode::Fixed;
        design.column(field)->width.pixels = pixels;
    }
    design.styles = boardStyles();
    design.column("labour")->heading = "Labour and parts";
    BannerDesign survey;
    survey.where = "work = 'Survey keel bolts'";
    survey.caption = "Survey of {vessel}, {due_on}: the slip is hers";
    design.banners = {survey};
    design.column("berth.power")->shown = false;
    SortDesign due;
    due.field = "due_on";
    design.sort = {due};
    SummaryDesign hours;
    hours.column = "hours";
    hours.name = newSummaryName(design, hours);
    design.summaries.push_back(hours);
    return design;
}

Design yardLinesDesign(const std::string& databaseName) {
    Design design;
    design.title = "Job lines";
    design.source = {sourceKindOf(databaseName), databaseName, "job_lines", ""};
    const auto add = [&design](const char* field, const char* heading) -> ColumnDesign& {
        ColumnDesign column;
        column.field = field;
        column.heading = heading;
        design.columns.push_back(column);
        return design.columns.back();
    };
    add("what", "What").width = {WidthMode::Share, 100, 1, 160, 0};
    add("kind", "Kind");
    add("quantity", "Quantity");
    add("price", "Price");
    ColumnDesign& amount = add("amount", "Amount");
    amount.rule = "quantity * price";
    amount.format = formatFor("#,##0.00", false);
    BannerDesign job;
    job.where = "position = 1";
    job.caption = "Job {job} · {job.vessel.name} · {what}, {quantity} h at {price}";
    job.heads = true;
    design.banners = {job};
    SortDesign dearest;
    dearest.field = "price";
    dearest.direction = Direction::Descending;
    design.sort = {dearest};
    SummaryDesign sum;
    sum.column = "amount";
    sum.name = newSummaryName(design, sum);
    design.summaries = {sum};
    return design;
}

Design yardWorkDesign(const std::string& databaseName) {
    Design design = yardJobsDesign(databaseName);
    design.title = "Yard work";
    design.column("berth.power")->shown = false;
    design.grid.filterRow = true;
    design.filter = {{"status <> 'Done'", "status", "not Done", true}, {"hours > 2", "hours", "> 2", true}};
    SortDesign due, number;
    due.field = "due_on";
    number.field = "number";
    design.sort = {due, number};
    GroupDesign status, dock;
    status.key.field = "status";
    status.key.values = {"In hand", "Waiting for parts", "Booked", "Quoted", "Done"};
    dock.key.field = "berth.dock";
    dock.footer = true;
    dock.footerCaption = "{value}, on average";
    design.groups = {status, dock};
    const auto sumUp = [&design](const char* column, SummaryShow show, const char* caption) -> SummaryDesign& {
        SummaryDesign summary;
        summary.column = column;
        summary.show = show;
        summary.caption = caption;
        summary.name = newSummaryName(design, summary);
        design.summaries.push_back(summary);
        return design.summaries.back();
    };
    sumUp("number", SummaryShow::Count, "{value, plural, one {{value} job} other {{value} jobs}}");
    sumUp("due_on", SummaryShow::Minimum, "from {value}").format.pattern = "d MMM";
    design.summaries.back().format.style = FormatStyle::Pattern;
    for (const char* column : {"hours", "labour", "parts"}) sumUp(column, SummaryShow::Sum, "");
    for (const char* column : {"hours", "labour", "parts"}) {
        SummaryDesign& mean = sumUp(column, SummaryShow::Mean, "");
        mean.onGroups = mean.onTotal = false;
        mean.onFooters = true;
    }
    return design;
}

}  // namespace jollyrow::demo
