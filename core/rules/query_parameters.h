// SPDX-License-Identifier: MIT
#pragma once
// Parameters (`:name`) of a SELECT of the builder's own. A parameter without a value restricts nothing: the conditions
// that use it are taken as met before the statement is prepared. Values are bound, never written into the text.

#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/result.h"

namespace jollyrow {

/// The names, each once, in the order met; not those in quotes or comments. O(length).
std::vector<std::string> parametersIn(std::string_view query);

/// The query with each condition that uses a parameter of `empty` replaced by TRUE (under NOT by FALSE). A condition
/// is what stands between WHERE, HAVING, ON, AND, OR and their ends; a parameter that is in none, e.g. in the select
/// list, stays and is to be bound as NULL. Text it cannot follow (open quotes or brackets) comes back as it is; the
/// database then says what is wrong. O(length * depth).
std::string withoutConditionsOn(std::string_view query, const std::set<std::string>& empty);

/// The query with $1, $2 … in place of its parameters, as PostgreSQL has them, and their names in that order.
struct NumberedQuery {
    std::string query;
    std::vector<std::string> names;
};
NumberedQuery withNumbers(std::string_view query);

/// The query with the parameter `from` called `to`; one that cannot be followed comes back as it is.
std::string withParameterNamed(std::string_view query, std::string_view from, std::string_view to);

/// What a parameter is first compared with, where that is a plain name ("due_on" of `j.due_on >= :from`); else "".
std::string comparedWith(std::string_view query, std::string_view parameter);

}  // namespace jollyrow
