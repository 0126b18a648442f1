// SPDX-License-Identifier: MIT
// A field that the database calls otherwise now is followed by the whole design: nothing of it is missing afterwards,
// and what is shown is what was shown before.
#include "core/design/field_names.h"
#include "core/design/design_file.h"
#include "core/design/finding.h"
#include "core/design/rule_texts.h"
#include "tests/session/session_fixture.h"

using namespace jollyrow;

namespace {

/// `hours` and the foreign key `vessel` in every place that takes a field, a rule or a message.
constexpr const char* kFull = R"JSON({
  "jollyrow": 1,
  "source": {"kind": "sqlite", "path": "yard.db", "table": "jobs", "readAs": {"hours": {"as": "number", "decimalSign": "."}}},
  "sort": [{"rule": "hours * -1", "direction": "ascending", "empties": "last"}, {"field": "hours", "direction": "ascending", "empties": "last"}],
  "filter": [{"rule": "Hours >= 2 AND work <> 'hours' /* hours */", "field": "hours", "entry": ">= 2"}],
  "sortRules": [{"name": "r", "keys": [{"rule": "MOD(hours, 3)", "direction": "ascending", "empties": "first"}, {"field": "hours", "direction": "ascending", "empties": "first"}]}],
  "groups": [{"field": "hours", "direction": "ascending", "empties": "last", "groupBy": "value", "caption": "{heading}: {value}"}],
  "summaries": [
    {"name": "a", "column": "hours", "show": "sum", "where": "hours BETWEEN 1 AND 100 AND vessel.name IS NOT NULL"},
    {"name": "b", "column": "work", "show": "rule", "rule": "SUM(hours) / COUNT(*)"},
    {"name": "c", "column": "work", "show": "weightedMean", "of": "hours", "weight": "hours"}],
  "operators": [{"name": "is_big", "title": "is big", "rule": "value > hours"},
                {"name": "is_over", "title": "is over", "arguments": ["hours"], "rule": "value > hours"}],
  "faces": [{"name": "f", "root": {"kind": "row", "shownWhen": "hours > 1", "toolTip": "{hours} h of {vessel.name}", "parts": [
      {"kind": "mark", "rules": [{"where": "hours > 7", "shape": "tick"}]},
      {"kind": "bar", "bar": {"fields": ["hours", "number"]}},
      {"kind": "column", "parts": [{"kind": "field", "field": "hours"}, {"kind": "text", "text": "{ hours } of {hours, number, ::.0}, hours", "shownWhen": "hours < 30", "rules": [{"where": "hours = 8"}]}]}]}}],
  "banners": [{"where": "hours = 16", "caption": "{hours} for {work}"}],
  "styles": [{"name": "s", "where": "hours > 3", "columns": ["hours", "work"], "ink": "teal"},
             {"name": "g", "where": "SUM(hours) > 3", "lines": "groups", "ink": "teal"}],
  "checks": [{"name": "c", "field": "hours", "rule": "hours < 100 OR is_big(hours)", "message": "{hours} is too many"}],
  "columns": [{"field": "number", "type": "integer", "heading": "No.", "under": "hours"}, {"field": "work", "heading": "Work"},
              {"field": "hours", "heading": "Hours", "face": "f"}, {"field": "vessel.name", "heading": "Vessel"},
              {"field": "said", "heading": "Said", "rule": "CASE WHEN hours > 5 THEN 'hours' ELSE vessel.name END"},
              {"field": "tag", "heading": "Tag", "format": {"style": "message", "pattern": "{hours} {vessel.name}"}}]
})JSON";

Design full() {
    auto read = designFromJson(kFull);
    if (!read) qFatal("%s", read.error().message.c_str());
    for (const Finding& finding : read->findings) qFatal("%s", finding.message.c_str());
    return read->design;
}

void clearMessages(Design& design) {
    design.banners[0].caption.clear();
    design.checks[0].message.clear();
    design.faces[0].root.toolTip.clear();
    design.faces[0].root.parts[2].parts.pop_back();
    design.columns.pop_back();
}

QString withoutData(QString json) {
    return json.remove(QStringLiteral("'hours'")).remove(QStringLiteral("/* hours */"));
}

}  // namespace

class FieldNamesTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void nothingOfTheOldNameIsLeft_data() {
        QTest::addColumn<QString>("from");
        QTest::addColumn<QString>("to");
        QTest::addColumn<QString>("written");
        QTest::newRow("as it is") << "hours"
                                  << "effort"
                                  << "effort";
        QTest::newRow("in quotes") << "hours"
                                   << "Working hours"
                                   << "\"Working hours\"";
        QTest::newRow("a word of the language") << "hours"
                                                << "order"
                                                << "\"order\"";
        QTest::newRow("a foreign key") << "vessel"
                                       << "ship"
                                       << "ship";
    }
    void nothingOfTheOldNameIsLeft() {
        QFETCH(const QString, from);
        QFETCH(const QString, to);
        QFETCH(const QString, written);
        Design design = full();
        if (to.contains(u' ')) {  // such a name cannot stand in a message
            renameField(design, from.toStdString(), to.toStdString());
            QCOMPARE(design.banners[0].caption, full().banners[0].caption);
            design = full();
            clearMessages(design);
        }
        Design again = design;
        renameField(design, from.toStdString(), to.toStdString());
        std::vector<std::string> rules;
        forEachRule(std::as_const(design), [&](const std::string& rule) { rules.push_back(rule); });
        design.operators.pop_back();  // its `hours` is a word of its own
        const QRegularExpression old(QStringLiteral("(?<![a-z_.\"'])%1(?![a-z_'])").arg(from));
        QString json = withoutData(QString::fromStdString(toJson(design)));
        json.remove(QStringLiteral(", hours\""));  // of a message, behind its fields
        if (from == QLatin1String("hours")) {
            json.replace(QStringLiteral("Working hours"), QStringLiteral("x"));
            const auto left = QRegularExpression(QStringLiteral("\\bhours\\b")).match(json);
            QVERIFY2(!left.hasMatch(), qPrintable(json.mid(left.capturedStart() - 60, 140)));
        } else {
            QVERIFY2(!json.contains(QStringLiteral("vessel.")), qPrintable(json));
        }
        const auto all = QString::fromStdString(toJson(full())).count(from);
        QVERIFY(all > 3);
        QVERIFY(std::any_of(rules.begin(), rules.end(),
                            [&](const std::string& rule) { return QString::fromStdString(rule).contains(written); }));
        // And back, it is the same design but for what was written in other case or spaces.
        renameField(design, to.toStdString(), from.toStdString());
        again.operators.pop_back();
        again.filter[0].rule = design.filter[0].rule;
        QCOMPARE(QString::fromStdString(toJson(design)), QString::fromStdString(toJson(again)));
    }

    void wordsOfAnOperatorAreItsOwn() {
        Design design = full();
        renameField(design, "hours", "effort");
        QCOMPARE(design.operators[0].rule, std::string("value > effort"));
        QCOMPARE(design.operators[1].rule, std::string("value > hours"));
    }

    void messagesAreReadAsMessages_data() {
        QTest::addColumn<QString>("before");
        QTest::addColumn<QString>("after");
        QTest::newRow("alone") << "{hours}"
                               << "{effort}";
        QTest::newRow("spaces") << "{ hours }, {hours , number}"
                                << "{ effort }, {effort , number}";
        QTest::newRow("branches that are words") << "{number, plural, one {hours} other {hours and {hours}}}"
                                                 << "{number, plural, one {hours} other {hours and {effort}}}";
        QTest::newRow("the number of a plural") << "{hours, plural, one {# hour} other {# hours}}"
                                                << "{effort, plural, one {# hour} other {# hours}}";
        QTest::newRow("a select") << "{work, select, hours {hours} other {{hours}}}"
                                  << "{work, select, hours {hours} other {{effort}}}";
        QTest::newRow("quoted") << "it''s '{hours}' of {hours}"
                                << "it''s '{hours}' of {effort}";
        QTest::newRow("paths") << "{hours.name} {vessel.hours} {hoursly}"
                               << "{effort.name} {vessel.hours} {hoursly}";
        QTest::newRow("other letters") << QString::fromUtf8("Größe {hours} · 日 {hours}")
                                       << QString::fromUtf8("Größe {effort} · 日 {effort}");
        QTest::newRow("breaks off") << "{hours, plural, one {"
                                    << "{hours, plural, one {";
    }
    void messagesAreReadAsMessages() {
        QFETCH(const QString, before);
        QFETCH(const QString, after);
        Design design = full();
        design.banners[0].caption = before.toStdString();
        renameField(design, "hours", "effort");
        QCOMPARE(QString::fromStdString(design.banners[0].caption), after);
    }

    void rules_data() {
        QTest::addColumn<QString>("from");
        QTest::addColumn<QString>("to");
        QTest::addColumn<QString>("before");
        QTest::addColumn<QString>("after");
        QTest::newRow("a path") << "vessel.name"
                                << "vessel.title"
                                << "vessel.name = 'vessel.name' AND Vessel . NAME > vessel.names"
                                << "vessel.title = 'vessel.name' AND vessel.title > vessel.names";
        QTest::newRow("the end of a longer path") << "vessel.owner"
                                                  << "vessel.keeper"
                                                  << "vessel.owner.name || owner"
                                                  << "vessel.keeper.name || owner";
        QTest::newRow("quotes") << "hours"
                                << "effort"
                                << "\"hours\" + \"Hours\" + hours"
                                << "effort + \"Hours\" + effort";
        QTest::newRow("a part of a date") << "day"
                                          << "due"
                                          << "EXTRACT(DAY FROM day) + day"
                                          << "EXTRACT(DAY FROM due) + due";
        QTest::newRow("a type") << "date"
                                << "due"
                                << "CAST(\"date\" AS DATE) > DATE '2026-01-01'"
                                << "CAST(due AS DATE) > DATE '2026-01-01'";
        QTest::newRow("parameters and calls") << "hours"
                                              << "effort"
                                              << ":hours > hours(hours)"
                                              << ":hours > hours(effort)";
        QTest::newRow("aggregates") << "hours"
                                    << "effort"
                                    << "SUM(hours) FILTER (WHERE hours > 1) / COUNT(*)"
                                    << "SUM(effort) FILTER (WHERE effort > 1) / COUNT(*)";
        QTest::newRow("between") << "hours"
                                 << "effort"
                                 << "hours BETWEEN hours AND 2 * hours"
                                 << "effort BETWEEN effort AND 2 * effort";
    }
    void rules() {
        QFETCH(const QString, from);
        QFETCH(const QString, to);
        QFETCH(const QString, before);
        QFETCH(const QString, after);
        Design design = full();
        design.checks[0].rule = before.toStdString();
        renameField(design, from.toStdString(), to.toStdString());
        QCOMPARE(QString::fromStdString(design.checks[0].rule), after);
    }

    /// `value` of styles, faces and operators is the cell's, also where a field was called so.
    void theValueOfACellIsNoField() {
        Design design = full();
        design.styles[0].where = design.operators[0].rule = design.checks[0].rule = "value > 3";
        design.faces[0].root.parts[0].rules[0].where = "value > 7";
        design.styles[0].columns = {"value"};
        renameField(design, "value", "worth");
        QCOMPARE(design.styles[0].where, std::string("value > 3"));
        QCOMPARE(design.operators[0].rule, std::string("value > 3"));
        QCOMPARE(design.faces[0].root.parts[0].rules[0].where, std::string("value > 7"));
        QCOMPARE(design.styles[0].columns[0], std::string("worth"));
        QCOMPARE(design.checks[0].rule, std::string("worth > 3"));
    }

    void whatIsNoRuleStays() {
        Design design = full();
        design.filter[0].rule = "hours > 'open";
        design.banners[0].caption = "{hours";
        renameField(design, "hours", "effort");
        QCOMPARE(design.filter[0].rule, std::string("hours > 'open"));
        QCOMPARE(design.banners[0].caption, std::string("{hours"));
        QCOMPARE(design.styles[0].where, std::string("effort > 3"));
    }

    void theSameIsShown_data() {
        QTest::addColumn<QString>("to");
        QTest::newRow("in messages, too") << "effort";
        QTest::newRow("in quotes") << "Working hours";
    }
    /// The same records, values and groups stand there when the database and the design call it otherwise.
    void theSameIsShown() {
        QFETCH(const QString, to);
        SessionFixture f(kJobs);
        Design design = full();
        if (to.contains(u' ')) clearMessages(design);
        design.source.path = f.path();
        QVERIFY(f.open(design));
        QVERIFY2(f.session->plan().findings.empty(), qPrintable(firstOf(f)));
        QVERIFY(f.until([&] { return f.session->snapshot()->groups != nullptr; }));
        const QString before = f.shown(), said = f.shown("said");
        QVERIFY(before.count(',') == 3);

        f.run(qPrintable(QStringLiteral("ALTER TABLE jobs RENAME COLUMN hours TO \"%1\"").arg(to)));
        QVERIFY(f.open(design));
        QVERIFY(!f.session->plan().findings.empty());
        renameField(design, "hours", to.toStdString());
        QVERIFY(f.open(design));
        QVERIFY2(f.session->plan().findings.empty(), qPrintable(firstOf(f)));
        QVERIFY(f.until([&] { return f.session->snapshot()->groups != nullptr; }));
        QCOMPARE(f.shown(), before);
        QCOMPARE(f.shown("said"), said);
    }

  private:
    static QString firstOf(const SessionFixture& f) {
        return QString::fromStdString(f.session->plan().findings.empty() ? std::string()
                                                                         : f.session->plan().findings.front().message);
    }
};

QTEST_GUILESS_MAIN(FieldNamesTest)
#include "field_names_test.moc"
