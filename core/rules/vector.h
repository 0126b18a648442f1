// SPDX-License-Identifier: MIT
#pragma once
// Vector: the values of one instruction for a batch of records, and the state of each (filled, empty, an error). Its
// arrays are its own or lent by a column; a constant has one value that stands for all. Confined to one thread.

#include <algorithm>
#include <cstdint>
#include <deque>
#include <memory>
#include <string>
#include <string_view>
#include <unordered_set>
#include <vector>

#include "core/rules/rule_type.h"

namespace jollyrow {

/// Records evaluated at a time: a handful of vectors of it fit the first-level cache (docs/bench.md).
inline constexpr std::size_t kBatch = 1024;
/// A text that grows past this becomes an error.
inline constexpr std::size_t kMostTextBytes = std::size_t{16} << 20;

/// The texts that one instruction makes for a batch may take so much together.
inline constexpr std::size_t kMostBatchBytes = std::size_t{256} << 20;

inline constexpr std::size_t kTextBlock = std::size_t{1} << 16;

class LikePattern;
class RegexCache;

struct Vector {
    RuleKind kind = RuleKind::Null;
    bool constant = false;  ///< one value for all records
    bool wide = false;      ///< decimals stand in `wides`, each with its own scale; else in `integers` at `scale`
    int scale = 0;
    const std::int64_t* integers = nullptr;  ///< Integer, narrow Decimal, Date, Time, Timestamp
    const double* reals = nullptr;
    const std::int8_t* booleans = nullptr;
    const std::string_view* texts = nullptr;
    const WideDecimal* wides = nullptr;
    const Interval* intervals = nullptr;
    const std::uint8_t* states = nullptr;  ///< CellState of each; null when all are filled

    CellState state(std::size_t i) const {
        return states ? static_cast<CellState>(states[constant ? 0 : i]) : CellState::Filled;
    }
    std::size_t at(std::size_t i) const { return constant ? 0 : i; }
    WideDecimal decimal(std::size_t i) const { return wide ? wides[at(i)] : WideDecimal{integers[at(i)], scale}; }

    // Room for results; each call makes the array this vector's own.
    std::int64_t* makeIntegers() { return make(integerStore, integers); }
    double* makeReals() { return make(realStore, reals); }
    std::int8_t* makeBooleans() { return make(booleanStore, booleans); }
    std::string_view* makeTexts() { return make(textStore, texts); }
    WideDecimal* makeWides() { return make(wideStore, wides); }
    Interval* makeIntervals() { return make(intervalStore, intervals); }
    std::uint8_t* makeStates() { return make(stateStore, states); }
    /// States to write errors into: all filled unless there are some already.
    std::uint8_t* writableStates(std::size_t n) {
        if (states == stateStore.data() && states) return stateStore.data();
        const std::uint8_t* lent = states;
        std::uint8_t* own = makeStates();
        for (std::size_t i = 0; i < n; ++i) own[i] = lent ? lent[i] : 0;
        return own;
    }
    /// Keeps a text made here until the next batch.
    std::string_view keep(std::string_view text) {
        keptBytes += text.size();
        // Blocks that are never moved; a text longer than one gets a block of its own.
        if (made.empty() || made.back().capacity() - made.back().size() < text.size()) {
            made.emplace_back();
            made.back().reserve(std::max(kTextBlock, text.size()));
        }
        std::string& block = made.back();
        const std::size_t start = block.size();
        block.append(text);
        return std::string_view(block).substr(start);
    }
    /// Whether one more text of this size may be kept in this batch.
    bool hasRoomFor(std::size_t size) const { return size <= kMostTextBytes && keptBytes + size <= kMostBatchBytes; }
    /// What was kept is gone; one block stays for the next batch.
    void forget() {
        keptBytes = 0;
        while (made.size() > 1) made.pop_back();
        if (made.empty()) return;
        if (made.back().capacity() > 4 * kTextBlock)
            made.clear();
        else
            made.back().clear();
    }

    std::vector<std::int64_t> integerStore;
    std::vector<double> realStore;
    std::vector<std::int8_t> booleanStore;
    std::vector<std::string_view> textStore;
    std::vector<WideDecimal> wideStore;
    std::vector<Interval> intervalStore;
    std::vector<std::uint8_t> stateStore;
    std::deque<std::string> made;
    std::size_t keptBytes = 0;  ///< in `made`

    // What an instruction with constant operands prepares once.
    std::shared_ptr<const LikePattern> pattern;
    std::shared_ptr<RegexCache> regex;  ///< the last regular expression, of constant operands or not
    std::unordered_set<std::int64_t> integerSet;
    std::unordered_set<std::string_view> textSet;
    bool prepared = false;

  private:
    template <class T>
    static T* make(std::vector<T>& store, const T*& pointer) {
        if (store.size() < kBatch) store.resize(kBatch);
        pointer = store.data();
        return store.data();
    }
};

}  // namespace jollyrow
