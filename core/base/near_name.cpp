// SPDX-License-Identifier: MIT
#include "core/base/near_name.h"

#include <algorithm>
#include <numeric>
#include <vector>

namespace jollyrow {
namespace {
char folded(char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c + 32) : c; }
constexpr std::size_t kMaxName = 256;
}  // namespace

std::size_t editDistance(std::string_view a, std::string_view b) {
    std::vector<std::size_t> row(b.size() + 1);
    std::iota(row.begin(), row.end(), std::size_t{0});
    for (std::size_t i = 1; i <= a.size(); ++i) {
        std::size_t diagonal = row[0];
        row[0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const std::size_t change = diagonal + (folded(a[i - 1]) == folded(b[j - 1]) ? 0 : 1);
            diagonal = row[j];
            row[j] = std::min({row[j] + 1, row[j - 1] + 1, change});
        }
    }
    return row[b.size()];
}

std::optional<std::string> nearestName(std::string_view wanted, std::span<const std::string> known) {
    wanted = wanted.substr(0, kMaxName);
    std::size_t best = std::max<std::size_t>(2, wanted.size() / 3) + 1;
    std::optional<std::string> found;
    for (const std::string& name : known) {
        if (name.size() > kMaxName) continue;
        if (const std::size_t distance = editDistance(wanted, name); distance < best) {
            best = distance;
            found = name;
        }
    }
    return found;
}

bool sameName(std::string_view a, std::string_view b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](char x, char y) { return folded(x) == folded(y); });
}

}  // namespace jollyrow
