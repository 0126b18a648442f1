// SPDX-License-Identifier: MIT
// A parameter is renamed in all that asks for it: whatever key of a design file holds a rule, and the source's SELECT.
#include <QtTest>

#include "core/design/design_file.h"
#include "core/design/rule_texts.h"

using namespace jollyrow;

namespace {

/// A rule in every place that takes one, down to parts within parts.
constexpr const char* kFull = R"JSON({
  "jollyrow": 1,
  "source": {"kind": "sqlite", "path": "yard.db", "table": "", "query": "SELECT * FROM jobs WHERE hours > :old -- :old\n AND due > :older AND note <> ':old'"},
  "sort": [{"rule": "hours - :old", "direction": "descending", "empties": "last"}],
  "filter": [{"rule": "hours > :old"}, {"rule": "hours > :OLD AND note <> ':old' /* :old */ AND older > :older"}],
  "sortRules": [{"name": "r", "keys": [{"rule": "hours % :old", "direction": "ascending", "empties": "first"}]}],
  "groups": [{"rule": "hours / :old", "direction": "ascending", "empties": "last", "groupBy": "value"}],
  "summaries": [{"name": "a", "column": "hours", "show": "rule", "rule": "SUM(hours * :old)", "where": "hours > :old"}],
  "operators": [{"name": "is_big", "title": "is big", "rule": "value > :old"}],
  "parameters": [{"name": "old", "heading": "Old", "type": "decimal"}, {"name": "older", "heading": "Older", "type": "decimal"}],
  "faces": [{"name": "f", "root": {"kind": "row", "shownWhen": "hours > :old", "parts": [
      {"kind": "mark", "rules": [{"where": "hours > :old", "shape": "tick"}]},
      {"kind": "column", "parts": [{"kind": "stack", "parts": [{"kind": "text", "text": "{number}", "shownWhen": ":old < 3", "rules": [{"where": "hours = :old"}]}]}]}]}}],
  "banners": [{"where": "hours > :old", "caption": "{number}"}],
  "styles": [{"name": "s", "where": "hours > :old", "ink": "teal"}],
  "checks": [{"name": "c", "rule": "hours < :old OR is_big(hours)"}],
  "columns": [{"field": "number", "type": "integer", "heading": "No."}, {"field": "twice", "heading": "Twice", "rule": "hours * :old"}]
})JSON";
constexpr int kRules = 16;  // that ask for :old, in kFull

Design full() {
    auto read = designFromJson(kFull);
    if (!read) qFatal("%s", read.error().message.c_str());
    for (const Finding& finding : read->findings) qFatal("%s", finding.message.c_str());
    return read->design;
}

}  // namespace

class RuleTextsTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everyRuleIsVisited() {
        const Design design = full();
        int asked = 0;
        forEachRule(design, [&](const std::string& rule) { asked += rule.find(":old") != std::string::npos ? 1 : 0; });
        QCOMPARE(asked, kRules);
        Design changed = design;
        forEachRule(changed, [](std::string& rule) { rule = "TRUE"; });
        const QString json = QString::fromStdString(toJson(changed));
        QCOMPARE(json.count(":old"), QString::fromStdString(design.source.query).count(":old"));
    }

    void aParameterIsRenamedInAllThatAskForIt() {
        Design design = full();
        renameParameter(design, "old", "a_new_one");
        QCOMPARE(design.parameters[0].name, std::string("a_new_one"));
        QCOMPARE(design.parameters[1].name, std::string("older"));
        QCOMPARE(design.source.query, std::string("SELECT * FROM jobs WHERE hours > :a_new_one -- :old\n AND due > "
                                                  ":older AND note <> ':old'"));
        QCOMPARE(design.filter[1].rule,
                 std::string("hours > :a_new_one AND note <> ':old' /* :old */ AND older > :older"));
        int asked = 0;
        forEachRule(std::as_const(design),
                    [&](const std::string& rule) { asked += rule.find(":a_new_one") != std::string::npos ? 1 : 0; });
        QCOMPARE(asked, kRules);
        // And back: what was written in capitals is the only difference.
        renameParameter(design, "a_new_one", "old");
        design.filter[1].rule.replace(design.filter[1].rule.find(":old"), 4, ":OLD");
        QVERIFY(design == full());
    }

    void whatIsNoSqlStays() {
        Design design = full();
        design.filter[0].rule = "hours > ':old";  // a quote without an end
        design.source.query = "SELECT (:old";
        const Design before = design;
        renameParameter(design, "nobody", "x");
        QVERIFY(design == before);
        renameParameter(design, "old", "x");
        QCOMPARE(design.filter[0].rule, before.filter[0].rule);
        QCOMPARE(design.source.query, before.source.query);
        QCOMPARE(design.checks[0].rule, std::string("hours < :x OR is_big(hours)"));
    }

    void callsAreFoundInEveryRule() {
        Design design = full();
        QVERIFY(isCalled(design, "is_big"));
        design.checks[0].rule = "hours > 1 /* is_big(hours) */ AND note <> 'is_big(' AND is_bigger(hours)";
        QVERIFY(!isCalled(design, "is_big"));
        design.faces[0].root.parts[1].parts[0].parts[0].shownWhen = "NOT IS_BIG (hours)";
        QVERIFY(isCalled(design, "is_big"));
    }
};

QTEST_APPLESS_MAIN(RuleTextsTest)
#include "rule_texts_test.moc"
