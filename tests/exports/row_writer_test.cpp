// SPDX-License-Identifier: MIT
// Text, CSV and JSON lines: what is written reads back as the values it was made from, whatever stands in them.
#include <QtTest>

#include <QJsonDocument>
#include <QJsonObject>

#include <cmath>
#include <random>

#include "core/columns/column_builder.h"
#include "core/exports/row_writer.h"
#include "core/formats/text_format.h"

using namespace jollyrow;

namespace {

const std::vector<std::string> kHostile = {"plain",
                                           "",
                                           "a,b",
                                           "say \"hello\"",
                                           "two\nlines",
                                           "cr\r\nlf",
                                           "tab\there",
                                           "Åse Øyhavn",
                                           "日本",
                                           "\"",
                                           ",",
                                           "\\",
                                           "nul\x01",
                                           " lead and trail ",
                                           "'; DROP TABLE jobs; --",
                                           "=1+1",
                                           std::string("zero\0inside", 11)};

std::shared_ptr<Snapshot> snapshotOf(std::size_t rows, bool brokenUtf8) {
    std::mt19937_64 random(21);
    auto table = std::make_shared<Table>();
    table->schema.name = "hostile";
    table->rows = rows;
    const std::vector<std::pair<std::string, Type>> fields = {
        {"t", Type::Text},    {"d", Type::Decimal}, {"i", Type::Integer},        {"r", Type::Real},
        {"b", Type::Boolean}, {"day", Type::Date},  {"odd \"name\"", Type::Text}};
    for (const auto& [name, type] : fields) {
        FieldSchema field;
        field.name = name;
        field.type = type;
        field.scale = type == Type::Decimal ? 2 : 0;
        table->schema.fields.push_back(field);
        ColumnBuilder builder(type, field.scale);
        ColumnChunk chunk;
        chunk.reset(type, field.scale, false);
        for (std::size_t row = 0; row < rows; ++row) {
            if (random() % 6 == 0)
                chunk.addEmpty();
            else if (type == Type::Text)
                chunk.addText(brokenUtf8 && random() % 3 == 0 ? std::string("br\xff\xc3oken")
                                                              : kHostile[random() % kHostile.size()]);
            else if (type == Type::Real)
                chunk.addReal(std::ldexp(static_cast<double>(random() >> 11), static_cast<int>(random() % 200) - 100));
            else if (type == Type::Boolean)
                chunk.addInteger(static_cast<std::int64_t>(random() % 2));
            else
                chunk.addInteger(static_cast<std::int64_t>(random()) >> (type == Type::Date ? 49 : random() % 50));
        }
        builder.append(chunk);
        table->columns.push_back(builder.share());
    }
    auto snapshot = std::make_shared<Snapshot>();
    snapshot->table = table;
    snapshot->edits = std::make_shared<Edits>();
    return snapshot;
}

std::vector<PlannedColumn> columnsOf(const TableSchema& schema) {
    std::vector<PlannedColumn> columns;
    for (std::size_t i = 0; i < schema.fields.size(); ++i) {
        PlannedColumn column;
        column.field = static_cast<FieldIndex>(i);
        column.design.field = column.design.heading = schema.fields[i].name;
        column.format = defaultFormat(schema.fields[i], false);
        column.formatter = Formatter::automatic(column.format);
        columns.push_back(column);
    }
    return columns;
}

std::string written(const Snapshot& snapshot, RowWriting writing) {
    std::string out;
    const auto done = writeRows(
        snapshot, columnsOf(snapshot.table->schema), writing,
        [&](std::string_view piece) {
            out += piece;
            return Result<void>();
        },
        Cancel());
    return done.ok() ? out : "failed: " + done.error().message;
}

/// A plain RFC 4180 reader.
std::vector<std::vector<std::string>> csv(const std::string& text) {
    std::vector<std::vector<std::string>> records(1);
    std::string cell;
    bool quoted = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (quoted) {
            if (text[i] != '"')
                cell += text[i];
            else if (i + 1 < text.size() && text[i + 1] == '"')
                cell += text[++i];
            else
                quoted = false;
        } else if (text[i] == '"') {
            quoted = true;
        } else if (text[i] == ',') {
            records.back().push_back(std::exchange(cell, {}));
        } else if (text[i] == '\r' && text[i + 1] == '\n') {
            records.back().push_back(std::exchange(cell, {}));
            records.emplace_back();
            ++i;
        } else {
            cell += text[i];
        }
    }
    records.pop_back();
    return records;
}

}  // namespace

class RowWriterTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void csvReadsBack() {
        const auto snapshot = snapshotOf(3000, false);
        const auto records = csv(written(*snapshot, {RowFormat::Csv, -1}));
        QCOMPARE(records.size(), std::size_t{3001});
        QCOMPARE(records[0][6], std::string("odd \"name\""));
        for (std::size_t row = 0; row < 3000; ++row)
            for (std::size_t column = 0; column < 7; ++column) {
                std::string expected;
                appendPlain(expected, snapshot->value(static_cast<SourceRow>(row), static_cast<FieldIndex>(column)));
                if (records[row + 1][column] != expected)
                    QFAIL(qPrintable(QString("row %1, column %2").arg(row).arg(column)));
            }
    }

    void jsonLinesReadBack() {
        const auto snapshot = snapshotOf(3000, false);
        const QList<QByteArray> lines =
            QByteArray::fromStdString(written(*snapshot, {RowFormat::Jsonl, -1})).trimmed().split('\n');
        QCOMPARE(lines.size(), 3000);
        for (qsizetype row = 0; row < lines.size(); ++row) {
            const QJsonDocument json = QJsonDocument::fromJson(lines[row]);
            QVERIFY2(json.isObject(), lines[row]);
            const QJsonObject values = json.object()["values"].toObject();
            const auto value = [&](unsigned column) {
                return snapshot->value(static_cast<SourceRow>(row), static_cast<FieldIndex>(column));
            };
            QCOMPARE(values["t"].isNull(), isEmpty(value(0)));
            if (!isEmpty(value(0))) QCOMPARE(values["t"].toString().toStdString(), std::get<std::string>(value(0)));
            if (!isEmpty(value(1)))
                QVERIFY(*parseDecimal(values["d"].toString().toStdString()) == std::get<Decimal>(value(1)));
            if (!isEmpty(value(2))) QCOMPARE(values["i"].toInteger(), std::get<std::int64_t>(value(2)));
            if (!isEmpty(value(3))) QCOMPARE(values["r"].toDouble(), std::get<double>(value(3)));
            if (!isEmpty(value(4))) QCOMPARE(values["b"].toBool(), std::get<bool>(value(4)));
        }
    }

    void brokenTextIsWrittenSoundly() {
        const auto snapshot = snapshotOf(500, true);
        for (const QByteArray& line :
             QByteArray::fromStdString(written(*snapshot, {RowFormat::Jsonl, -1})).trimmed().split('\n'))
            QVERIFY2(QJsonDocument::fromJson(line).isObject(), line);
    }

    void textHasOneLineARecordAndAllAreOfOneWidth() {
        const auto snapshot = snapshotOf(300, false);
        const QString text = QString::fromStdString(written(*snapshot, {RowFormat::Text, 50}));
        QCOMPARE(text.count('\n'), 51);
        for (const QChar c : text) QVERIFY(c == '\n' || c.unicode() >= 0x20 || c.unicode() == 0);
    }

    void aFullSinkAndACancelStopTheWriting() {
        const auto snapshot = snapshotOf(20000, false);
        int pieces = 0;
        const auto failed = writeRows(
            *snapshot, columnsOf(snapshot->table->schema), {RowFormat::Csv, -1},
            [&](std::string_view) -> Result<void> {
                return ++pieces == 3 ? Result<void>(Error{ErrorCode::DiskFull, "full"}) : Result<void>();
            },
            Cancel());
        QVERIFY(!failed.ok());
        QCOMPARE(failed.error().code, ErrorCode::DiskFull);
        QCOMPARE(pieces, 3);
        Cancel cancel;
        cancel.request();
        QCOMPARE(writeRows(
                     *snapshot, columnsOf(snapshot->table->schema), {RowFormat::Csv, -1},
                     [](std::string_view) { return Result<void>(); }, cancel)
                     .error()
                     .code,
                 ErrorCode::Cancelled);
    }

    void editsAreWrittenInPlaceOfStoredValues() {
        const auto snapshot = snapshotOf(3, false);
        snapshot->edits =
            Edits().with(SourceRow{1}, FieldIndex{2}, {std::int64_t{4711}, Empty{}, EditState::Saved, {}});
        for (const RowFormat format : {RowFormat::Csv, RowFormat::Jsonl})
            QVERIFY(written(*snapshot, {format, -1}).find("4711") != std::string::npos);
    }
};

QTEST_APPLESS_MAIN(RowWriterTest)
#include "row_writer_test.moc"
