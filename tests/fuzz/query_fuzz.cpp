// SPDX-License-Identifier: MIT
// Any bytes as a SELECT with parameters: conditions are lifted without reading past its end, and lifting is done once.
#include <cstdint>
#include <cstdlib>

#include "core/rules/query_parameters.h"

using namespace jollyrow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string_view query(reinterpret_cast<const char*>(data), size);
    const auto names = parametersIn(query);
    const std::string lifted = withoutConditionsOn(query, {names.begin(), names.end()});
    if (lifted.size() > query.size() + 8 * names.size() * (query.size() + 1)) std::abort();
    if (withoutConditionsOn(query, {}) != query) std::abort();
    for (const std::string& name : names) comparedWith(query, name);
    return 0;
}
