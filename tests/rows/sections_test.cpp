// SPDX-License-Identifier: MIT
// Sections against a plain model, and the Rowline with banners under sorts, filters, groups and edits.
#include <QtTest>

#include <random>

#include "core/rows/sections.h"

using namespace jollyrow;

namespace {

RecordSet setOf(const std::vector<bool>& is) {
    RecordSet set;
    set.rows = is.size();
    set.bits.assign((is.size() + 63) / 64, 0);
    for (std::size_t i = 0; i < is.size(); ++i)
        if (is[i]) set.bits[i >> 6] |= std::uint64_t{1} << (i & 63), ++set.count;
    return set;
}

std::vector<std::uint32_t> rowsOf(const RecordSet& set) {
    std::vector<std::uint32_t> rows;
    for (std::uint32_t i = 0; i < set.rows; ++i)
        if (set.contains(i)) rows.push_back(i);
    return rows;
}

}  // namespace

class SectionsTest : public QObject {
    Q_OBJECT
    std::mt19937 random_{11};
    std::vector<bool> some(std::size_t rows, unsigned oneIn) {
        std::vector<bool> is(rows);
        for (std::size_t i = 0; i < rows; ++i) is[i] = random_() % oneIn == 0;
        return is;
    }
    /// The head of each record's section; its own row for a head, -1 before the first.
    static std::vector<int> headOf(const std::vector<bool>& heads) {
        std::vector<int> out;
        int head = -1;
        for (std::size_t i = 0; i < heads.size(); ++i) out.push_back(head = heads[i] ? static_cast<int>(i) : head);
        return out;
    }

  private Q_SLOTS:
    void headsOfWhatIsShownAreKept() {
        for (const std::size_t rows : {0U, 1U, 63U, 64U, 65U, 128U, 1000U})
            for (const unsigned often : {1U, 2U, 9U, 70U, 5000U})
                for (const unsigned shownOneIn : {1U, 3U, 60U, 5000U}) {
                    const auto heads = some(rows, often), shown = some(rows, shownOneIn);
                    std::vector<bool> expected = shown;
                    const auto head = headOf(heads);
                    for (std::size_t i = 0; i < rows; ++i)
                        if (shown[i] && head[i] >= 0) expected[static_cast<std::size_t>(head[i])] = true;
                    const auto made = withHeads(setOf(shown), setOf(heads));
                    QCOMPARE(rowsOf(*made), rowsOf(setOf(expected)));
                    QCOMPARE(made->count, rowsOf(*made).size());
                }
    }

    void anOrderIsKeptWithinSections() {
        for (const std::size_t rows : {1U, 64U, 65U, 700U})
            for (const unsigned often : {1U, 4U, 80U, 5000U}) {
                const auto heads = some(rows, often);
                const auto head = headOf(heads);
                RowOrder order;
                for (std::uint32_t i = 0; i < rows; ++i)
                    if (random_() % 4 != 0) order.push_back(i);
                std::shuffle(order.begin(), order.end(), random_);
                std::vector<std::uint32_t> expected(order.begin(), order.end());
                std::stable_sort(expected.begin(), expected.end(), [&](std::uint32_t a, std::uint32_t b) {
                    return head[a] != head[b] ? head[a] < head[b] : heads[a] && !heads[b];
                });
                const auto made = bySection(order, setOf(heads));
                QCOMPARE(std::vector<std::uint32_t>(made->begin(), made->end()), expected);
            }
    }

    void setsAreJoined() {
        const auto a = some(300, 3), b = some(300, 5);
        std::vector<bool> either(300);
        for (std::size_t i = 0; i < 300; ++i) either[i] = a[i] || b[i];
        const std::shared_ptr<const RecordSet> both[] = {std::make_shared<RecordSet>(setOf(a)),
                                                         std::make_shared<RecordSet>(setOf(b))};
        const auto made = unionOf(both, 300);
        QCOMPARE(rowsOf(*made), rowsOf(setOf(either)));
        QCOMPARE(made->count, rowsOf(*made).size());
        QCOMPARE(unionOf({}, 300)->count, std::size_t{0});
    }
};

QTEST_GUILESS_MAIN(SectionsTest)
#include "sections_test.moc"
