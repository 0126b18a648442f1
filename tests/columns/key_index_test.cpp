// SPDX-License-Identifier: MIT
// KeyIndex and movesBetween against looking through all records, over rising, shuffled, doubled, empty and several-part
// keys.
#include <QtTest>

#include <algorithm>
#include <random>

#include "core/columns/column_builder.h"
#include "core/columns/key_index.h"
#include "tests/turns.h"

using namespace jollyrow;

namespace {

/// A table keyed by a whole number and, when `second` is not empty, a text.
std::shared_ptr<const Table> keyed(const std::vector<std::optional<std::int64_t>>& numbers,
                                   const std::vector<std::string>& second) {
    auto table = std::make_shared<Table>();
    ColumnChunk chunk, texts;
    chunk.reset(Type::Integer, 0, false);
    texts.reset(Type::Text, 0, false);
    for (const auto& number : numbers) number ? chunk.addInteger(*number) : chunk.addEmpty();
    for (const std::string& text : second) texts.addText(text);
    ColumnBuilder whole(Type::Integer, 0), words(Type::Text, 0);
    whole.append(chunk);
    words.append(texts);
    table->schema.fields.resize(second.empty() ? 1 : 2);
    table->columns = {whole.share()};
    table->keyFields = {FieldIndex{0}};
    if (!second.empty()) {
        table->columns.push_back(words.share());
        table->keyFields.push_back(FieldIndex{1});
    }
    table->rows = numbers.size();
    return table;
}

std::optional<SourceRow> lookedThrough(const Table& table, const RecordKey& key) {
    std::optional<SourceRow> found;
    for (const Value& part : key)
        if (isEmpty(part)) return std::nullopt;
    for (std::size_t i = 0; i < table.rows; ++i) {
        if (table.key(static_cast<SourceRow>(i)) != key) continue;
        if (found) return std::nullopt;  // no key: several have it
        found = static_cast<SourceRow>(i);
    }
    return found;
}

}  // namespace

class KeyIndexTest : public QObject {
    Q_OBJECT
  private slots:
    void findsWhatLookingThroughFinds_data() {
        QTest::addColumn<bool>("rising");
        QTest::addColumn<bool>("doubled");
        QTest::addColumn<bool>("empties");
        QTest::addColumn<bool>("two");
        for (int bits = 0; bits < 16; ++bits)
            QTest::addRow("%s%s%s%s", (bits & 1) ? "rising " : "shuffled ", (bits & 2) ? "doubled " : "",
                          (bits & 4) ? "with empties " : "", (bits & 8) ? "two parts" : "one part")
                << ((bits & 1) != 0) << ((bits & 2) != 0) << ((bits & 4) != 0) << ((bits & 8) != 0);
    }
    void findsWhatLookingThroughFinds() {
        QFETCH(bool, rising);
        QFETCH(bool, doubled);
        QFETCH(bool, empties);
        QFETCH(bool, two);
        std::mt19937_64 random(11);
        const auto made = [&](std::size_t rows) {
            std::vector<std::optional<std::int64_t>> numbers;
            std::vector<std::string> texts;
            for (std::size_t i = 0; i < rows; ++i) {
                numbers.emplace_back(static_cast<std::int64_t>(i) * 5 + static_cast<std::int64_t>(random() % 3));
                if (doubled && i % 7 == 0) numbers.back() = 4;
                if (empties && i % 11 == 0) numbers.back() = std::nullopt;
                if (two) texts.push_back("t" + std::to_string(random() % 3));
            }
            if (!rising) std::shuffle(numbers.begin(), numbers.end(), random);
            return keyed(numbers, texts);
        };
        for (const std::size_t rows :
             {std::size_t{0}, std::size_t{1}, std::size_t{2}, std::size_t{test::kSanitized ? 100 : 300}}) {
            const auto before = made(rows), after = made(rows + rows / 3);
            const KeyIndex from(before), to(after);
            for (std::size_t i = 0; i < before->rows; ++i)
                QCOMPARE(from.find(before->key(static_cast<SourceRow>(i))),
                         lookedThrough(*before, before->key(static_cast<SourceRow>(i))));
            QVERIFY(!from.find({std::int64_t{-1}}) && !from.find({}) && !from.find({Empty{}}));
            QVERIFY(!from.find({std::string("4")}));
            const auto moves = movesBetween(from, to);
            QCOMPARE(moves.size(), before->rows);
            for (std::size_t i = 0; i < moves.size(); ++i) {
                const auto expected = lookedThrough(*after, before->key(static_cast<SourceRow>(i)));
                QCOMPARE(moves[i], expected ? raw(*expected) : raw(kNoRow));
            }
            const auto same = movesBetween(from, KeyIndex(before));
            for (std::size_t i = 0; i < same.size(); ++i) QCOMPARE(same[i], static_cast<std::uint32_t>(i));
        }
    }
};

QTEST_GUILESS_MAIN(KeyIndexTest)
#include "key_index_test.moc"
