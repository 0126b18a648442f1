// SPDX-License-Identifier: MIT
#pragma once
// A grid in a real window on a small yard of jobs, vessels and owners, with gestures, for the grid's tests.

#include <QtTest>

#include <sqlite3.h>

#include <memory>

#include "core/design/make_design.h"
#include "core/session/session.h"
#include "core/sources/source.h"
#include "grid/api/grid.h"

namespace jollyrow {

inline constexpr const char* kYardSql = R"SQL(
CREATE TABLE owners (id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE);
CREATE TABLE vessels (id INTEGER PRIMARY KEY, name VARCHAR(40) NOT NULL, owner INTEGER NOT NULL REFERENCES owners(id), length DECIMAL(5,2));
CREATE TABLE jobs (number INTEGER PRIMARY KEY, vessel INTEGER REFERENCES vessels(id), work VARCHAR(80) NOT NULL,
  status TEXT NOT NULL, due DATE, hours DECIMAL(6,2), paid BOOLEAN NOT NULL, notes TEXT);
INSERT INTO owners VALUES (1, 'Ines Calder'), (2, 'Tomas Rill'), (3, 'Åse Myhre');
INSERT INTO vessels VALUES (10, 'Sandpiper', 1, 7.5), (11, 'Otter''s Due', 2, 9.25), (12, 'Brisk Molly', 3, NULL), (13, 'Sandpiper', 3, 11);
WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < 200)
INSERT INTO jobs SELECT i, CASE WHEN i % 7 = 0 THEN NULL ELSE 10 + i % 4 END, 'work ' || i, CASE i / 5 % 3 WHEN 0 THEN 'Booked' WHEN 1 THEN 'In hand' ELSE 'Done' END,
  date('2026-01-01', i || ' days'), i % 40 + 0.5, i % 2, CASE WHEN i % 4 = 0 THEN 'Owner calls in the morning; the insurer wants pictures before anyone lifts her out again' END FROM c;
)SQL";

class GridFixture {
  public:
    GridFixture() {
        path = folder.filePath("yard.db");
        sqlite3* handle = nullptr;
        sqlite3_open(path.toLocal8Bit().constData(), &handle);
        sqlite3_exec(handle, kYardSql, nullptr, nullptr, nullptr);
        sqlite3_close(handle);
        auto source = openSource(path.toStdString());
        design = designFor(*(*source)->schema({"jobs", "", {}}), {"sqlite", path.toStdString(), "jobs", ""});
        for (ColumnDesign& column : design.columns) column.width = {WidthMode::Fixed, 100, 1, 32, 0};
    }
    bool open() {
        grid.resize(1000, 500);
        if (!grid.open(design, path).ok()) return false;
        grid.show();
        if (!QTest::qWaitForWindowExposed(&grid)) return false;
        grid.activateWindow();
        return QTest::qWaitFor([this] { return grid.lineCount() == 200 && !grid.isLoading(); });
    }
    QWidget* viewport() { return grid.viewport(); }
    QString text(std::int64_t line, const char* field) { return grid.recordAt(line).text(field); }
    void click(QPoint at, Qt::KeyboardModifiers modifiers = {}) {
        QTest::mouseClick(viewport(), Qt::LeftButton, modifiers, at);
    }
    void drag(QPoint from, QPoint to) {
        QTest::mousePress(viewport(), Qt::LeftButton, {}, from);
        for (int step = 1; step <= 6; ++step) QTest::mouseMove(viewport(), from + (to - from) * step / 6);
        QTest::mouseRelease(viewport(), Qt::LeftButton, {}, to);
    }
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = {}) { QTest::keyClick(&grid, key, modifiers); }
    /// The order of all columns, tiers in brackets: "number [T: vessel work]".
    QString order() const {
        QString out;
        std::string open;
        for (const ColumnDesign& column : grid.design().columns) {
            if (column.tier != open && !open.empty()) out += ']';
            if (!out.isEmpty()) out += column.under.empty() ? ' ' : '^';
            if (column.tier != open && !column.tier.empty())
                out += QStringLiteral("[%1: ").arg(QString::fromStdString(column.tier));
            out += QString::fromStdString(column.field);
            open = column.tier;
        }
        return open.empty() ? out : out + ']';
    }
    QTemporaryDir folder;
    QString path;
    Design design;
    Grid grid;
};

}  // namespace jollyrow
