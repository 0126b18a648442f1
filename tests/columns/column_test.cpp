// SPDX-License-Identifier: MIT
// ColumnBuilder against a plain vector of optionals, over all storages and chunk lengths, and shared columns that must
// not change while the builder goes on on another thread.
#include <QtTest>

#include <random>
#include <thread>

#include "core/columns/column_builder.h"

using namespace jollyrow;

namespace {

struct Reference {
    std::vector<std::optional<std::int64_t>> integers;
    std::vector<std::optional<std::string>> texts;
};

/// Values whose repetition and range depend on the flavour.
std::int64_t integerOf(int flavour, std::mt19937_64& random) {
    switch (flavour) {
        case 0: return static_cast<std::int64_t>(random() % 2);
        case 1: return static_cast<std::int64_t>(random() % 100000) - 50000;
        default: return static_cast<std::int64_t>(random());
    }
}

std::string textOf(int flavour, std::mt19937_64& random) {
    if (flavour == 0) return "status " + std::to_string(random() % 5);
    if (flavour == 1) return "Åse " + std::to_string(random());
    return random() % 2 ? "" : std::string(random() % 40, 'x') + std::to_string(random() % 3000);
}

}  // namespace

class ColumnTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void integers_data() { flavours(); }
    void integers() {
        QFETCH(int, flavour);
        QFETCH(int, emptyOneIn);
        std::mt19937_64 random(static_cast<unsigned>(flavour * 31 + emptyOneIn));
        const Type type = flavour == 0 ? Type::Boolean : Type::Integer;
        ColumnBuilder builder(type, 0);
        std::vector<std::optional<std::int64_t>> expected;
        ColumnChunk chunk;
        for (const std::size_t length : {0, 1, 63, 64, 65, 0, 200, 16384, 16385, 7, 40000}) {
            chunk.reset(type, 0, false);
            for (std::size_t i = 0; i < length; ++i) {
                const bool isEmpty = emptyOneIn > 0 && random() % static_cast<unsigned>(emptyOneIn) == 0;
                expected.push_back(isEmpty ? std::nullopt : std::optional(integerOf(flavour, random)));
                isEmpty ? chunk.addEmpty() : chunk.addInteger(*expected.back());
            }
            builder.append(chunk);
            const auto column = builder.share();
            QCOMPARE(column->size(), expected.size());
        }
        const auto column = builder.share();
        for (std::size_t i = 0; i < expected.size(); ++i) {
            const auto row = static_cast<SourceRow>(i);
            QCOMPARE(column->isEmpty(row), !expected[i].has_value());
            if (expected[i]) QCOMPARE(column->integer(row), *expected[i]);
        }
    }

    void texts_data() { flavours(); }
    void texts() {
        QFETCH(int, flavour);
        QFETCH(int, emptyOneIn);
        std::mt19937_64 random(static_cast<unsigned>(flavour * 37 + emptyOneIn));
        ColumnBuilder builder(Type::Text, 0);
        builder.reserve(50000);
        std::vector<std::optional<std::string>> expected;
        std::vector<std::pair<std::shared_ptr<const Column>, std::size_t>> earlier;
        ColumnChunk chunk;
        for (const std::size_t length : {1, 0, 64, 2047, 2049, 16384, 16384, 16384, 16384, 16384, 33}) {
            chunk.reset(Type::Text, 0, builder.prefersArena() || random() % 5 == 0);
            for (std::size_t i = 0; i < length; ++i) {
                const bool isEmpty = emptyOneIn > 0 && random() % static_cast<unsigned>(emptyOneIn) == 0;
                expected.push_back(isEmpty ? std::nullopt : std::optional(textOf(flavour, random)));
                isEmpty ? chunk.addEmpty() : chunk.addText(*expected.back());
            }
            builder.append(chunk);
            earlier.emplace_back(builder.share(), expected.size());
        }
        for (const auto& [column, size] : earlier) {
            QCOMPARE(column->size(), size);
            for (std::size_t i = 0; i < size; ++i) {
                const auto row = static_cast<SourceRow>(i);
                if (column->isEmpty(row) != !expected[i].has_value() ||
                    (expected[i] && column->text(row) != *expected[i]))
                    QFAIL(qPrintable(QString("row %1 of %2").arg(i).arg(size)));
            }
        }
    }

    void misfitsStandAtTheirRows() {
        ColumnBuilder builder(Type::Date, 0);
        ColumnChunk chunk;
        for (int part = 0; part < 3; ++part) {
            chunk.reset(Type::Date, 0, false);
            for (int i = 0; i < 100; ++i) i == 42 ? chunk.addMisfit("soon") : chunk.addInteger(i);
            builder.append(chunk);
        }
        const auto column = builder.share();
        QCOMPARE(column->misfitCount(), std::size_t{3});
        QCOMPARE(*column->misfit(SourceRow{142}), std::string_view("soon"));
        QVERIFY(column->isEmpty(SourceRow{142}) && !column->misfit(SourceRow{141}));
    }

    void readersSeeTheirPartWhileTheWriterGoesOn() {
        ColumnBuilder builder(Type::Integer, 0);
        ColumnChunk chunk;
        std::vector<std::jthread> readers;
        std::atomic<int> wrong{0};
        for (int part = 0; part < 40; ++part) {
            chunk.reset(Type::Integer, 0, false);
            for (int i = 0; i < 501; ++i) i % 7 == 0 ? chunk.addEmpty() : chunk.addInteger(part * 501 + i);
            builder.append(chunk);
            if (part % 8 != 0) continue;
            readers.emplace_back([column = builder.share(), &wrong] {
                for (std::size_t i = 0; i < column->size(); ++i) {
                    const auto row = static_cast<SourceRow>(i);
                    if (!column->isEmpty(row) && column->integer(row) != static_cast<std::int64_t>(i)) ++wrong;
                }
            });
        }
        readers.clear();
        QCOMPARE(wrong.load(), 0);
    }

  private:
    static void flavours() {
        QTest::addColumn<int>("flavour");
        QTest::addColumn<int>("emptyOneIn");
        for (const int flavour : {0, 1, 2})
            for (const int empty : {0, 1, 5})
                QTest::addRow("flavour %d, one in %d empty", flavour, empty) << flavour << empty;
    }

    /// The first rows are all different, so the dictionary is dropped; the whole repeats, so it comes back.
    void textsAreLookedAtAgainAtTheEnd() {
        ColumnBuilder builder(Type::Text, 0);
        ColumnChunk chunk;
        constexpr std::size_t kRows = 400'000, kDistinct = 90'000;
        for (std::size_t start = 0; start < kRows; start += 10'000) {
            chunk.reset(Type::Text, 0, builder.prefersArena());
            for (std::size_t i = start; i < start + 10'000; ++i) {
                if (i % 97 == 0)
                    chunk.addEmpty();
                else
                    chunk.addText("customer " + std::to_string(i % kDistinct));
            }
            builder.append(chunk);
        }
        const auto before = builder.share();
        QVERIFY(std::holds_alternative<TextArena>(before->storage()));
        builder.settle();
        const auto after = builder.share();
        QVERIFY(std::holds_alternative<TextDictionary>(after->storage()));
        QCOMPARE(std::get<TextDictionary>(after->storage()).distinct.size(), kDistinct);
        for (std::size_t i = 0; i < kRows; ++i)
            QVERIFY(before->value(static_cast<SourceRow>(i)) == after->value(static_cast<SourceRow>(i)));
    }
};

QTEST_APPLESS_MAIN(ColumnTest)
#include "column_test.moc"
