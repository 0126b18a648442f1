// SPDX-License-Identifier: MIT
#pragma once
// Design: everything a builder settles about a grid, as plain values with defaults. Kept in one text file
// (design_file.h, docs/formats/design.md). The name of a field here, in the file and on the screen is the same.

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/columns/sort_key.h"

namespace jollyrow {

enum class Alignment {
    Automatic,  ///< by type: numbers on the decimal sign at the right, yes/no in the middle, the rest at the left
    Left,
    Center,
    Right,
};

enum class WidthMode {
    Fixed,  ///< `pixels`
    Fit,    ///< to heading and content
    Share,  ///< of what is left, by `weight`
};

struct Width {
    static constexpr int kLeastPixels = 24;
    static constexpr int kMostPixels = 4000;
    WidthMode mode = WidthMode::Fit;
    int pixels = 100;   ///< for Fixed, at 100 % scale
    double weight = 1;  ///< for Share: 2 is twice 1
    int minimum = 32;   ///< pixels
    int maximum = 0;    ///< pixels; 0 = none
    bool operator==(const Width&) const = default;
};

struct ColumnDesign {
    std::string field;  ///< name in the source
    std::string heading;
    bool shown = true;
    bool readOnly = false;
    Alignment alignment = Alignment::Automatic;
    Width width;
    std::string unknown;  ///< keys of the file that this version does not know, as a JSON object; kept
    bool operator==(const ColumnDesign&) const = default;
};

struct SortDesign {
    std::string field;
    Direction direction = Direction::Ascending;
    Empties empties = Empties::Last;
    bool operator==(const SortDesign&) const = default;
};

struct SourceDesign {
    std::string kind = "sqlite";
    std::string path;  ///< as written in the file; a relative one is meant from the design file's folder
    std::string table;
    std::string query;  ///< when not empty, instead of `table`
    bool operator==(const SourceDesign&) const = default;
};

struct GridDesign {
    int pinned = 0;  ///< how many of the first shown columns stay while the rest scrolls
    bool stripes = true;
    bool lines = true;   ///< hairlines between rows
    int rowHeight = 26;  ///< pixels at 100 % scale
    bool operator==(const GridDesign&) const = default;
};

struct Design {
    static constexpr int kVersion = 1;
    int version = kVersion;
    std::string title;
    SourceDesign source;
    std::vector<ColumnDesign> columns;  ///< in display order, hidden ones included
    std::vector<SortDesign> sort;       ///< most important first; empty = the bound order
    GridDesign grid;
    std::string unknown;
    bool operator==(const Design&) const = default;

    /// nullptr when there is none. Valid until `columns` changes.
    ColumnDesign* column(std::string_view field);
    const ColumnDesign* column(std::string_view field) const;
};

}  // namespace jollyrow
