// SPDX-License-Identifier: MIT
// Partition and keys are packed into as few 64-bit numbers as hold them, and sorted by radix from the last digit on
// (Knuth, The Art of Computer Programming 3, 5.2.5), the record's number moving along. Covered by
// tests/rules/window_oracle_test.cpp.
#include "core/rules/window_order.h"

#include <algorithm>
#include <array>
#include <bit>
#include <numeric>
#include <unordered_map>

namespace jollyrow {
namespace {

constexpr int kDigitBits = 11;
constexpr std::size_t kDigits = std::size_t{1} << kDigitBits;

struct Item {
    std::uint64_t code = 0;
    std::uint32_t row = 0;
};

std::uint64_t codeOf(const Item& item) { return item.code; }
std::uint64_t codeOf(std::uint64_t item) { return item; }

/// One stable sort by the bits from `begin` to `end` of a part of the keys, packed.
template <class T>
void sortByRadix(std::vector<T>& items, std::vector<T>& other, int begin, int end) {
    other.resize(items.size());
    for (int shift = begin; shift < end; shift += kDigitBits) {
        const std::uint64_t mask = std::min(kDigits, std::size_t{1} << std::min(end - shift, kDigitBits)) - 1;
        std::array<std::uint32_t, kDigits> begins{};
        for (const T& item : items) ++begins[(codeOf(item) >> shift) & mask];
        if (std::any_of(begins.begin(), begins.end(), [&](std::uint32_t n) { return n == items.size(); })) continue;
        std::exclusive_scan(begins.begin(), begins.end(), begins.begin(), 0U);
        for (const T& item : items) other[begins[(codeOf(item) >> shift) & mask]++] = item;
        items.swap(other);
    }
}

/// A run of codes that fit 64 bits together; the first is the most significant.
struct Packed {
    std::vector<std::span<const std::uint64_t>> parts;
    std::vector<int> bits;
    int all = 0;
    std::uint64_t at(std::size_t row) const {
        std::uint64_t code = 0;
        for (std::size_t k = 0; k < parts.size(); ++k)
            code = bits[k] == 64 ? parts[k][row] : (code << bits[k]) | parts[k][row];
        return code;
    }
};

std::vector<Packed> packed(std::span<const std::uint64_t> groups, int groupBits, std::span<const WindowCodes> keys) {
    std::vector<Packed> made(1);
    const auto put = [&](std::span<const std::uint64_t> codes, int bits) {
        if (made.back().all + bits > 64) made.emplace_back();
        made.back().parts.push_back(codes);
        made.back().bits.push_back(bits);
        made.back().all += bits;
    };
    put(groups, groupBits);
    for (const WindowCodes& key : keys) put(key.codes, std::max(1, static_cast<int>(std::bit_width(key.most))));
    return made;
}

}  // namespace

std::uint32_t WindowOrder::groupAt(std::size_t place) const {
    const auto next = std::upper_bound(groupBegin.begin(), groupBegin.end(), static_cast<std::uint32_t>(place));
    return static_cast<std::uint32_t>(next - groupBegin.begin()) - 1;
}

std::vector<std::uint32_t> partitionsOf(std::span<const WindowCodes> keys, std::size_t rows, std::uint32_t& count) {
    std::vector<std::uint32_t> group(rows, 0);
    count = 1;
    constexpr std::uint64_t kTable = 1 << 22;
    for (const WindowCodes& key : keys) {
        std::uint32_t next = 0;
        const std::uint64_t width = key.most + 1;
        if (width != 0 && width <= kTable / count) {
            std::vector<std::uint32_t> numbers(static_cast<std::size_t>(width * count), 0);
            for (std::size_t row = 0; row < rows; ++row) {
                std::uint32_t& number = numbers[static_cast<std::size_t>(group[row] * width + key.codes[row])];
                if (number == 0) number = ++next;
                group[row] = number - 1;
            }
        } else {
            struct Hash {
                std::size_t operator()(const std::pair<std::uint32_t, std::uint64_t>& v) const {
                    return (v.second ^ (std::uint64_t{v.first} << 32)) * 0x9E37'79B9'7F4A'7C15ULL >> 16;
                }
            };
            std::unordered_map<std::pair<std::uint32_t, std::uint64_t>, std::uint32_t, Hash> numbers;
            for (std::size_t row = 0; row < rows; ++row) {
                const auto [at, isNew] = numbers.try_emplace({group[row], key.codes[row]}, next);
                if (isNew) ++next;
                group[row] = at->second;
            }
        }
        count = std::max(1U, next);
    }
    return group;
}

namespace {

/// Where partitions and equal records begin and end; isSame(a, b) tells neighbouring records apart.
template <class IsSame>
void findPeers(std::span<const std::uint32_t> groupOf, const IsSame& isSame, WindowOrder& made) {
    const auto n = static_cast<std::uint32_t>(made.rows.size());
    made.peerBegin.resize(n);
    made.peerEnd.resize(n);
    made.groupBegin.assign(1, 0);
    std::uint32_t begin = 0;
    for (std::uint32_t i = 0; i < n; ++i) {
        if (i > 0 && !isSame(i - 1, i)) {
            std::fill(made.peerEnd.begin() + begin, made.peerEnd.begin() + i, i);
            begin = i;
            if (groupOf[made.rows[i - 1]] != groupOf[made.rows[i]]) made.groupBegin.push_back(i);
        }
        made.peerBegin[i] = begin;
    }
    std::fill(made.peerEnd.begin() + begin, made.peerEnd.end(), n);
    if (n > 0) made.groupBegin.push_back(n);
}

/// Where keys and the record's number fit 64 bits together: half the memory to move.
void orderInOne(const Packed& keys, std::span<const std::uint32_t> groupOf, int rowBits,
                const std::vector<std::uint32_t>& counting, WindowOrder& made) {
    std::vector<std::uint64_t> items(counting.size()), other;
    for (std::size_t i = 0; i < counting.size(); ++i) items[i] = (keys.at(counting[i]) << rowBits) | counting[i];
    sortByRadix(items, other, rowBits, rowBits + keys.all);
    made.rows.resize(items.size());
    const std::uint64_t mask = (std::uint64_t{1} << rowBits) - 1;
    for (std::size_t i = 0; i < items.size(); ++i) made.rows[i] = static_cast<std::uint32_t>(items[i] & mask);
    findPeers(
        groupOf, [&](std::uint32_t a, std::uint32_t b) { return items[a] >> rowBits == items[b] >> rowBits; }, made);
}

}  // namespace

bool orderRecords(std::span<const std::uint32_t> groupOf, std::uint32_t groups, std::span<const WindowCodes> keys,
                  const std::vector<std::uint32_t>& counting, const Cancel& cancel, WindowOrder& made) {
    std::vector<std::uint64_t> groupCodes(groupOf.begin(), groupOf.end());
    const int groupBits = std::max(1, static_cast<int>(std::bit_width(groups)));
    const std::vector<Packed> parts = packed(groupCodes, groupBits, keys);
    const int rowBits = std::max(1, static_cast<int>(std::bit_width(groupOf.size())));
    if (parts.size() == 1 && parts[0].all + rowBits <= 64) {
        orderInOne(parts[0], groupOf, rowBits, counting, made);
        return !cancel.requested();
    }
    std::vector<Item> items(counting.size()), other;
    for (std::size_t i = 0; i < counting.size(); ++i) items[i].row = counting[i];
    for (std::size_t k = parts.size(); k-- > 0;) {
        if (cancel.requested()) return false;
        for (Item& item : items) item.code = parts[k].at(item.row);
        sortByRadix(items, other, 0, parts[k].all);
    }
    made.rows.resize(items.size());
    for (std::size_t i = 0; i < items.size(); ++i) made.rows[i] = items[i].row;
    findPeers(
        groupOf,
        [&](std::uint32_t a, std::uint32_t b) {
            bool isPeer = items[a].code == items[b].code;
            for (std::size_t k = 1; isPeer && k < parts.size(); ++k)
                isPeer = parts[k].at(made.rows[a]) == parts[k].at(made.rows[b]);
            return isPeer;
        },
        made);
    return !cancel.requested();
}

}  // namespace jollyrow
