// SPDX-License-Identifier: MIT
// Related fields by foreign keys, on schemas made by hand: what a path adds, in any order and piece by piece.
#include <QtTest>

#include <map>

#include "core/sources/related_fields.h"

using namespace jollyrow;

class RelatedFieldsTest : public QObject {
    Q_OBJECT

    struct Named {
        const char* name;
        Type type = Type::Integer;
    };
    static TableSchema table(const std::string& name, std::initializer_list<Named> fields,
                             std::vector<ForeignKey> keys = {}) {
        TableSchema schema;
        schema.name = name;
        for (const Named& field : fields) {
            schema.fields.emplace_back().name = field.name;
            schema.fields.back().type = field.type;
        }
        schema.fields.front().primaryKeyRank = 1;
        schema.foreignKeys = std::move(keys);
        return schema;
    }

    std::map<std::string, TableSchema> tables_;
    std::map<std::string, ErrorCode> failures_;
    int asked_ = 0;

    OtherTables others() {
        return [this](const std::string& name) -> Result<TableSchema> {
            ++asked_;
            if (const auto failure = failures_.find(name); failure != failures_.end())
                return Error{failure->second, name + " cannot be read"};
            const auto found = tables_.find(name);
            return found == tables_.end() ? Result<TableSchema>(Error{ErrorCode::NotFound, "no " + name})
                                          : Result<TableSchema>(found->second);
        };
    }
    TableSchema with(std::vector<std::string> paths) { return with(tables_.at("jobs"), std::move(paths)); }
    TableSchema with(TableSchema schema, const std::vector<std::string>& paths) {
        const auto done = addRelated(schema, paths, others());
        if (!done) schema.name = done.error().message;
        return schema;
    }

  private Q_SLOTS:
    void init() {
        failures_.clear();
        asked_ = 0;
        tables_.clear();
        tables_["jobs"] =
            table("jobs", {{"id"}, {"vessel"}, {"berth_row"}, {"berth_no"}},
                  {{{"vessel"}, "vessels", {"id"}}, {{"berth_row", "berth_no"}, "berths", {"row", "no"}}});
        tables_["vessels"] = table("vessels", {{"id"}, {"name", Type::Text}, {"owner"}, {"photo", Type::Binary}},
                                   {{{"owner"}, "owners", {"id"}}, {{"name"}, "nicknames", {"word"}}});
        tables_["owners"] = table("owners", {{"id"}, {"name", Type::Text}, {"agent"}}, {{{"agent"}, "owners", {"id"}}});
        tables_["berths"] = table("berths", {{"row"}, {"no"}, {"length", Type::Real}});
        tables_["berths"].fields[1].primaryKeyRank = 2;
        tables_["nicknames"] = table("nicknames", {{"id"}, {"word", Type::Text}});  // several of one word
    }

    void aPathAddsItsJoinsOnce() {
        const TableSchema schema = with({"vessel.name", "vessel.owner.name", "vessel.owner.agent.name"});
        QCOMPARE(schema.fields.size(), std::size_t{7});
        QCOMPARE(schema.joins.size(), std::size_t{3});
        QCOMPARE(schema.fields[4].name, std::string("vessel.name"));
        QCOMPARE(schema.fields[4].column, std::string("name"));
        QCOMPARE(schema.fields[4].type, Type::Text);
        QCOMPARE(schema.fields[4].join, 1);
        QCOMPARE(schema.fields[6].join, 3);
        QCOMPARE(schema.joins[2].path, std::string("vessel.owner.agent"));
        QCOMPARE(schema.joins[2].table, std::string("owners"));
        QVERIFY(schema.fields[6].generated && !schema.fields[6].required && !schema.fields[6].unique);
    }

    /// Whatever is there already, and in whatever steps it comes: the same fields.
    void pieceByPieceIsTheSameAsAtOnce() {
        std::vector<std::string> paths{"vessel.name", "vessel.owner.name", "berths.length", "vessel.owner.agent.agent",
                                       "vessel.photo"};
        std::sort(paths.begin(), paths.end());
        do {
            const TableSchema atOnce = with(paths);
            for (std::size_t cut = 0; cut <= paths.size(); ++cut) {
                const auto middle = paths.begin() + static_cast<std::ptrdiff_t>(cut);
                const TableSchema first = with({paths.begin(), middle});
                const TableSchema both = with(first, {middle, paths.end()});
                QCOMPARE(both.fields, atOnce.fields);
                QVERIFY(both.joins == atOnce.joins);
                // And what is there is not added again.
                QCOMPARE(with(both, paths).fields, atOnce.fields);
            }
        } while (std::next_permutation(paths.begin(), paths.end()));
    }

    void whatLeadsNowhereAddsNothing_data() {
        QTest::addColumn<QString>("path");
        for (const char* path : {"vessel.no_such", "id.name", "no_such.name", "vessel.name.word", "vessels.name", "",
                                 ".", "vessel.", ".name", "vessel..name", "berth_row.length", "berth_no.length"})
            QTest::newRow(*path ? path : "nothing") << QString(path);
    }
    void whatLeadsNowhereAddsNothing() {
        QFETCH(QString, path);
        const TableSchema schema = with({path.toStdString(), "vessel.name"});
        QCOMPARE(schema.name, std::string("jobs"));
        QCOMPARE(schema.fields.size(), std::size_t{5});
        QCOMPARE(schema.fields.back().name, std::string("vessel.name"));
    }

    /// A link to what several records may have would show one record many times.
    void aLinkThatIsNotUniqueIsNone() {
        QCOMPARE(with({"vessel.name.id"}).fields.size(), std::size_t{4});
        tables_["nicknames"].uniqueKeys.push_back({"word"});
        QCOMPARE(with({"vessel.name.id"}).fields.size(), std::size_t{5});
        tables_["nicknames"].isView = true;
        QCOMPARE(with({"vessel.name.id"}).fields.size(), std::size_t{4});
    }

    void aTableThatCannotBeReadIsAnError() {
        failures_["vessels"] = ErrorCode::Locked;
        QCOMPARE(with({"vessel.name"}).name, std::string("vessels cannot be read"));
        failures_["vessels"] = ErrorCode::NotFound;  // dropped: a link to nothing
        QCOMPARE(with({"vessel.name", "berths.length"}).fields.size(), std::size_t{5});
    }

    void linksGoOnlySoFar() {
        std::string path = "vessel.owner";
        for (int i = 0; i < 30; ++i) path += ".agent";
        QCOMPARE(with({path + ".name"}).fields.size(), std::size_t{4});
        QVERIFY(asked_ < 10);
        std::vector<std::string> many;
        for (int i = 0; i < 60; ++i) {
            const std::string link = "link" + std::to_string(i);
            tables_["jobs"].fields.emplace_back().name = link;
            tables_["jobs"].foreignKeys.push_back({{link}, "owners", {"id"}});
            many.push_back(link + ".name");
        }
        QCOMPARE(with(many).joins.size(), std::size_t{40});
    }
};

QTEST_APPLESS_MAIN(RelatedFieldsTest)
#include "related_fields_test.moc"
