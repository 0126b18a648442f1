// SPDX-License-Identifier: MIT
#include "core/sources/sqlite/sqlite_rules.h"

#include <string_view>

#include "core/rules/like_pattern.h"
#include "core/rules/text_order.h"
#include "core/rules/utf8.h"
#include "core/sources/sqlite/sqlite_connection.h"
#include "core/sources/sqlite/sqlite_values.h"

namespace jollyrow::sqlite {
namespace {

void answer(sqlite3_context* context, const std::string& text) {
    sqlite3_result_text64(context, text.data(), text.size(), SQLITE_TRANSIENT, SQLITE_UTF8);
}

void like(sqlite3_context* context, int count, sqlite3_value** values) {
    for (int i = 0; i < count; ++i)
        if (sqlite3_value_type(values[i]) == SQLITE_NULL) return sqlite3_result_null(context);
    const auto pattern = LikePattern::make(textOf(values[1]), textOf(values[2]));
    if (!pattern) return sqlite3_result_error(context, "the LIKE pattern or its escape character makes no sense", -1);
    sqlite3_result_int(context, pattern->matches(textOf(values[0])) ? 1 : 0);
}

template <std::string (*kMap)(std::string_view)>
void mapCase(sqlite3_context* context, int, sqlite3_value** values) {
    if (sqlite3_value_type(values[0]) == SQLITE_NULL) return sqlite3_result_null(context);
    answer(context, kMap(textOf(values[0])));
}

int collate(void*, int lengthA, const void* a, int lengthB, const void* b) {
    return compareTexts({static_cast<const char*>(a), static_cast<std::size_t>(lengthA)},
                        {static_cast<const char*>(b), static_cast<std::size_t>(lengthB)});
}

}  // namespace

Result<void> registerRules(sqlite3* connection) {
    constexpr int kFlags = SQLITE_UTF8 | SQLITE_DETERMINISTIC | SQLITE_DIRECTONLY;
    const auto add = [&](const char* name, int arguments, void (*function)(sqlite3_context*, int, sqlite3_value**)) {
        return sqlite3_create_function_v2(connection, name, arguments, kFlags, nullptr, function, nullptr, nullptr,
                                          nullptr) == SQLITE_OK;
    };
    const bool done =
        add("jollyrow_like", 3, like) && add("jollyrow_upper", 1, mapCase<uppered>) &&
        add("jollyrow_lower", 1, mapCase<lowered>) &&
        sqlite3_create_collation_v2(connection, "jollyrow", SQLITE_UTF8, nullptr, collate, nullptr) == SQLITE_OK;
    return done ? Result<void>() : Result<void>(errorOf(connection, "Preparing the rules"));
}

}  // namespace jollyrow::sqlite
