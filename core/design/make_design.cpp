// SPDX-License-Identifier: MIT
#include "core/design/make_design.h"

#include <algorithm>

#include "core/rules/query_parameters.h"

namespace jollyrow {
namespace {
bool isUpper(char c) { return c >= 'A' && c <= 'Z'; }
bool isLower(char c) { return c >= 'a' && c <= 'z'; }
char lower(char c) { return isUpper(c) ? static_cast<char>(c + 32) : c; }
char upper(char c) { return isLower(c) ? static_cast<char>(c - 32) : c; }

/// Words that people write as initials, however the database has them.
bool areInitials(std::string_view word) {
    constexpr std::string_view kKnown[] = {"id",  "url", "vat", "sku", "isbn", "iban", "bic", "ean", "uuid",
                                           "pdf", "gps", "vin", "ip",  "vhf",  "mmsi", "imo", "pin"};
    return std::find(std::begin(kKnown), std::end(kKnown), word) != std::end(kKnown);
}

std::string withInitials(std::string text) {
    for (std::size_t start = 0; start < text.size();) {
        const std::size_t end = std::min(text.find(' ', start), text.size());
        std::string word = text.substr(start, end - start);
        std::transform(word.begin(), word.end(), word.begin(), lower);
        if (areInitials(word))
            std::transform(word.begin(), word.end(), text.begin() + static_cast<std::ptrdiff_t>(start), upper);
        start = end + 1;
    }
    return text;
}
}  // namespace

std::string headingFor(std::string_view field, bool isLink) {
    if (isLink && field.size() > 3 && (field.ends_with("_id") || field.ends_with("_ID"))) field.remove_suffix(3);
    std::string out;
    for (std::size_t i = 0; i < field.size(); ++i) {
        const char c = field[i];
        const bool afterUpper = i > 0 && isUpper(field[i - 1]), afterLower = i > 0 && isLower(field[i - 1]);
        const bool beforeUpper = i + 1 < field.size() && isUpper(field[i + 1]),
                   beforeLower = i + 1 < field.size() && isLower(field[i + 1]);
        const bool startsWord = isUpper(c) && (afterLower || (afterUpper && beforeLower));
        const bool acronym = isUpper(c) && (afterUpper || beforeUpper) && !(afterUpper && beforeLower);
        if (c == '_' || c == '-' || c == '.') {
            if (!out.empty() && out.back() != ' ') out += ' ';
            continue;
        }
        if (startsWord) out += ' ';
        out += acronym ? c : lower(c);
    }
    while (!out.empty() && out.back() == ' ') out.pop_back();
    if (out.empty()) return std::string(field);
    out.front() = upper(out.front());
    return withInitials(std::move(out));
}

std::string nameFor(std::string_view heading) {
    std::string name;
    for (const char c : heading) {
        const char small = lower(c);
        const bool keeps = isLower(small) || (c >= '0' && c <= '9' && !name.empty()) || (c & 0x80) != 0;
        if (keeps)
            name += small;
        else if (!name.empty() && name.back() != '_')
            name += '_';
    }
    while (!name.empty() && name.back() == '_' && !heading.ends_with('_')) name.pop_back();
    return name;
}

ColumnDesign columnFor(const FieldSchema& field) {
    ColumnDesign column;
    column.field = field.name;
    column.type = field.type;
    column.heading = headingFor(field.name, field.use == Use::LookUp);
    column.shown = field.type != Type::Binary || field.use == Use::Picture;
    column.readOnly = field.generated;
    column.toolTip = field.comment;
    column.width.mode = WidthMode::Fit;
    column.width.maximum = 320;
    if (field.use == Use::LongText) column.width.minimum = 120;
    return column;
}

Design designFor(const TableSchema& schema, SourceDesign source) {
    Design design;
    design.title = headingFor(schema.name, false);
    design.source = std::move(source);
    for (const FieldSchema& field : schema.fields) design.columns.push_back(columnFor(field));
    // A parameter of the SELECT has the type of what it is compared with.
    for (const std::string& name : parametersIn(design.source.query)) {
        ParameterDesign parameter{name, headingFor(name, false), Type::Text, {}};
        if (const auto field = schema.find(comparedWith(design.source.query, name)))
            parameter.type = schema.field(*field).type;
        design.parameters.push_back(std::move(parameter));
    }
    // Room that is left goes to all texts; to long ones twice as much, and to none more than can be read at a glance.
    for (ColumnDesign& column : design.columns) {
        const FieldSchema& field = schema.field(*schema.find(column.field));
        if (field.type != Type::Text || field.use == Use::Choice || field.use == Use::LookUp || !column.shown) continue;
        column.width = {WidthMode::Share, 100, field.use == Use::LongText ? 2.0 : 1.0, 96, 480};
    }
    return design;
}

}  // namespace jollyrow
