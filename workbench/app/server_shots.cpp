// SPDX-License-Identifier: MIT
#include "workbench/app/server_shots.h"

#include <QLineEdit>
#include <QTemporaryDir>

#include "core/design/design_file.h"
#include "core/session/session.h"
#include "core/sources/postgres/pg_connection.h"
#include "core/sources/postgres/pg_source.h"
#include "demo/boatyard.h"
#include "workbench/app/look.h"
#include "workbench/app/main_window.h"
#include "workbench/app/settings.h"
#include "workbench/app/shot_steps.h"
#include "workbench/app/start_page.h"
#include "workbench/build/build_page.h"
#include "workbench/popovers/server_popover.h"

namespace jollyrow {
namespace {

constexpr const char* kInvoiced = R"sql(
CREATE OR REPLACE FUNCTION invoiced() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF OLD.paid THEN RAISE EXCEPTION 'Job % is paid; the office opens it again first', OLD.number; END IF;
  RETURN NEW;
END $$)sql";

/// The yard's own rule, and the trigger that tells of changes.
bool prepare(postgres::Connection& server) {
    std::vector<std::string> all = {kInvoiced,
                                    "CREATE OR REPLACE TRIGGER invoiced BEFORE UPDATE ON jobs FOR EACH ROW WHEN "
                                    "(OLD.hours IS DISTINCT FROM NEW.hours) "
                                    "EXECUTE FUNCTION invoiced()",
                                    "DROP TRIGGER IF EXISTS jolly_row_tells ON jobs",
                                    "DROP TRIGGER IF EXISTS jolly_row_tells_all ON jobs"};
    const QStringList tells =
        QString::fromStdString(postgres::triggerSql("jobs", {"number"})).split(QStringLiteral("\n\nCREATE TRIGGER"));
    for (const QString& sql : tells)
        all.push_back((sql == tells.front() ? sql : QStringLiteral("CREATE TRIGGER") + sql).toStdString());
    for (const std::string& sql : all)
        if (const auto done = server.run(sql); !done) {
            std::fprintf(stderr, "%s\n", done.error().message.c_str());
            return false;
        }
    return true;
}

bool connecting(const QDir& folder) {
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    settle();
    auto* start = window.findChild<StartPage*>();
    if (!start) return false;
    Q_EMIT start->openServer();
    settle(200);
    auto* card = window.findChild<ServerPopover*>();
    if (!card) return false;
    card->entry()->setText(QStringLiteral("postgresql://ines@db.kelpie-quay.example/yard"));
    card->askPassword(QStringLiteral("The database yard at db.kelpie-quay.example asks ines for a password."));
    settle(300);
    return savePicture(pictureOf(window), folder, QStringLiteral("start"));
}

}  // namespace

bool serverShots(QApplication& application, const QDir& folder, const QString& address) {
    applyLook(application, Theme::Light);
    auto server = postgres::Connection::open(address.toStdString());
    if (!server || !prepare(*server)) return false;
    QTemporaryDir scratch;
    qputenv("XDG_STATE_HOME", scratch.path().toUtf8());  // no drafts of an earlier picture
    Settings settings;
    for (const char* name : {"vessels-by-length.jrow", "kelpie-quay.db", "yard-jobs.jrow"})
        settings.noteRecent(scratch.filePath(QString::fromLatin1(name)));
    settings.save();
    if (!connecting(folder)) return false;

    Design design = demo::yardBoardDesign(address.toStdString());
    design.grid.followsOthers = true;
    design.column("berth")->shown = false;
    const QString path = scratch.filePath(QStringLiteral("yard-board.jrow"));
    if (!writeDesignFile(path.toStdString(), design)) return false;
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    window.openPath(path);
    Grid& grid = window.buildPage().grid();
    if (!untilLoaded(grid)) return false;
    window.buildPage().selectColumn(std::nullopt);
    const std::int64_t today = showDay(grid, QStringLiteral("Fri 20 Nov"));
    settle(1500);  // it has begun to listen
    std::int64_t paid = today;
    while (!std::holds_alternative<bool>(grid.recordAt(paid).value("paid")) ||
           !std::get<bool>(grid.recordAt(paid).value("paid")))
        ++paid;
    grid.records().setValue(grid.recordAt(paid), QStringLiteral("hours"), Decimal{2350, 2});
    click(grid, grid.places().cell(paid, QStringLiteral("hours")).center());
    settle(700);
    int told = 0;
    QObject::connect(&grid, &Grid::changedElsewhere, &grid, [&told](int records) { told += records; });
    for (const std::int64_t line : {today - 1, today + 5, today + 8})
        if (!server->run(
                "UPDATE jobs SET labour = labour + 120, notes = 'asked for by telephone' WHERE number = $1::int",
                {grid.recordAt(line).plain("number").toStdString()}))
            return false;
    for (int turn = 0; turn < 300 && told < 3; ++turn) settle(10);
    settle(120);
    return savePicture(pictureOf(window), folder, QStringLiteral("server"));
}

}  // namespace jollyrow
