// SPDX-License-Identifier: MIT
#pragma once
// Design: everything a builder settles about a grid, as plain values with defaults. Kept in one text file
// (design_file.h, docs/formats/design.md). The name of a field here, in the file and on the screen is the same.

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/columns/read_as.h"
#include "core/columns/sort_key.h"
#include "core/columns/type.h"
#include "core/design/banner.h"
#include "core/design/check.h"
#include "core/design/entry.h"
#include "core/design/face.h"
#include "core/design/look.h"
#include "core/design/style.h"
#include "core/formats/format_spec.h"

namespace jollyrow {

struct ColumnDesign {
    std::string field;         ///< name in the source; "vessel.name" follows the foreign key `vessel`
    std::optional<Type> type;  ///< of the field when the column was made, to tell when it has become another
    std::string heading;
    std::string tier;   ///< name of the header tier it stands in; "" = none
    std::string under;  ///< field of the column it stands beneath, in a record of several lines; "" = none
    int span = 1;       ///< how many places wide it is when it stands beneath another
    bool shown = true;
    bool hiddenFromUsers = false;  ///< never shown nor offered in the column list; rules and messages may use it
    bool readOnly = false;
    bool wrap = false;   ///< text may take several lines
    bool merge = false;  ///< equal neighbours show their value once
    Alignment alignment = Alignment::Automatic;
    Width width;
    FormatSpec format;
    std::string face = {};    ///< name of the face that its cells have; "" = the one by its type
    std::string rule = {};    ///< of a computed column: the expression whose value it shows; "" = a field of the source
    std::string sortBy = {};  ///< name of the sort rule that clicking its heading uses; "" = its own values
    std::string label;  ///< of a look-up: field of the other table that stands for the record; "" = found by itself
    std::string hint;   ///< stands in the entry while it is empty
    EntryDesign entry = {};
    std::string toolTip;  ///< of the heading
    std::string unknown;  ///< keys of the file that this version does not know, as a JSON object; kept
    bool operator==(const ColumnDesign&) const = default;
};

/// How a tier's heading is drawn.
enum class TierLook {
    Bracket,  ///< its words over a bracket that reaches from the first column to the last
    Band,     ///< a filled band
    Plain,    ///< words alone
};

/// A heading over headings. Which columns it covers is said by them (`tier`); in `columns` they stand side by side.
struct TierDesign {
    static constexpr int kMostLevels = 16;
    std::string name;     ///< names it, unique among the tiers
    std::string heading;  ///< what is shown
    std::string parent;   ///< name of the tier it stands in; "" = none
    Alignment alignment = Alignment::Left;
    TierLook look = TierLook::Bracket;
    std::string colour;  ///< of the words, "#rrggbb"; "" = the theme's
    std::string toolTip;
    bool folded = false;  ///< only the lead column is shown
    std::string lead;     ///< field of the column that stays when folded; "" = the first shown one
    std::string unknown;
    bool operator==(const TierDesign&) const = default;
};

/// One key to sort by: a field, a rule's value, or all keys of a named sort rule.
struct SortDesign {
    std::string field;
    Direction direction = Direction::Ascending;
    Empties empties = Empties::Last;
    std::string rule = {};   ///< an expression, instead of `field`
    std::string by = {};     ///< name of a sort rule, instead of both; `direction` turns all its keys around
    std::string title = {};  ///< what a rule's key is called; "" = its text
    bool natural = false;    ///< digits by the number they make: "B2" before "B10"
    TextStrength strength = TextStrength::Exact;
    std::vector<std::string> values = {};  ///< a stated order, in plain form; what is not named stands last
    std::string comparator = {};           ///< name of a comparator of the application
    std::string unknown = {};              ///< keys of the file that this version does not know; kept
    bool operator==(const SortDesign&) const = default;
};

/// A named way to sort, which several columns may share.
struct SortRuleDesign {
    std::string name;
    std::vector<SortDesign> keys;  ///< most important first; `by` is not followed in them
    std::string unknown = {};      ///< keys of the file that this version does not know; kept
    bool operator==(const SortRuleDesign&) const = default;
};

/// One condition of what is shown; all that are on must hold.
struct FilterDesign {
    std::string rule;   ///< a condition of the rule language
    std::string field;  ///< the column it was made at, "" when it stands for itself
    std::string entry;  ///< as typed in that column's filter row; "" when it was made otherwise
    bool on = true;
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const FilterDesign&) const = default;
};

/// An operator of the builder's own: a condition over a column's `value` and further arguments, called by its name.
struct OperatorDesign {
    std::string name;                    ///< as rules call it: is_even(hours)
    std::string title;                   ///< as menus say it: "is even"
    std::vector<std::string> arguments;  ///< beyond the column's value, by the names that `rule` uses
    std::string rule;                    ///< "MOD(value, 2) = 0"
    std::vector<Type> types;             ///< of the columns it is offered for; none = all
    std::string unknown = {};            ///< keys of the file that this version does not know; kept
    bool operator==(const OperatorDesign&) const = default;
};

/// What of a value makes a group.
enum class GroupBy {
    EachValue,  ///< each value, or each value of a rule
    Ranges,     ///< between the cut points: 0, 250, 500 -> below 0, from 0 to below 250, from 250…, from 500
    Year,       ///< of a date or time, as are the next five
    Quarter,    ///< of its year
    Month,      ///< of its year
    Week,       ///< ISO 8601, from Monday
    Day,
    Nearness,      ///< before today, today, the rest of this week, next week, later
    FirstLetters,  ///< of a text, as capitals
};

/// One level of groups.
struct GroupDesign {
    SortDesign key;  ///< what by (`field` or `rule`) and in what order; `by` of it is not used
    GroupBy by = GroupBy::EachValue;
    std::vector<std::string> cuts = {};  ///< of Ranges, in plain form, each larger than the one before
    int letters = 1;                     ///< of FirstLetters
    std::string orderBy = {};            ///< name of a summary whose figure the groups stand by, in the key's direction
    std::string caption = {};  ///< ICU message pattern over heading, value, count and summaries by name; "" = "{value}"
    bool footer = false;       ///< an open group ends with a line of its own
    std::string footerCaption = {};         ///< as `caption`; "" = "{value}"
    bool open = true;                       ///< when the grid opens
    bool across = false;                    ///< in the summary table its groups stand side by side
    int height = 0;                         ///< pixels at 100 % scale; 0 = a row's
    std::string colour = {};                ///< behind the group's line, "#rrggbb"; "" = the theme's for its level
    std::string textColour = {};            ///< of the group's line; "" = the theme's. A style's own stands before it
    LineWeight weight = LineWeight::Theme;  ///< of the group's line
    int footerHeight = 0;                   ///< as `height`, of its footer
    std::string footerColour = {};          ///< behind its footer; "" = the theme's
    std::string footerTextColour = {};
    LineWeight footerWeight = LineWeight::Theme;
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const GroupDesign&) const = default;
};

enum class SummaryShow {
    Count,     ///< records
    Filled,    ///< records that have a value
    Blank,     ///< records that have none
    Distinct,  ///< different values
    Sum,
    Mean,
    Minimum,
    Maximum,
    Range,  ///< largest less smallest
    Median,
    Percentile,          ///< `percent`, between two values where it falls between them
    Variance,            ///< of a sample
    VariancePopulation,  ///< of all there is
    Deviation,           ///< standard deviation of a sample
    DeviationPopulation,
    First,  ///< of the first record that has a value, in the order shown
    Last,
    WeightedMean,  ///< by the column `weight`
    Rule,          ///< `rule`, with aggregates: SUM(hours * rate) / SUM(hours)
};

/// How a figure is shown.
enum class SummaryAs {
    Itself,
    ShareOfParent,  ///< of the group above
    ShareOfAll,
    RunningTotal,  ///< with those of the groups before it
};

/// A figure of each group and of all records.
struct SummaryDesign {
    std::string name;    ///< names it, unique among the summaries
    std::string column;  ///< field of the column under whose heading it stands
    SummaryShow show = SummaryShow::Sum;
    std::string of = {};      ///< field that is summed up; "" = `column`
    std::string rule = {};    ///< of Rule
    std::string weight = {};  ///< of WeightedMean: a field
    double percent = 90;      ///< of Percentile
    std::string where = {};   ///< only records that meet this condition count; "" = all
    SummaryAs as = SummaryAs::Itself;
    std::string caption = {};  ///< ICU message pattern over value: "{value} jobs"; "" = "{value}"
    FormatSpec format = {};
    bool onGroups = true;
    bool onFooters = false;
    bool onTotal = true;
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const SummaryDesign&) const = default;
};

/// A value that rules name as `:name` and the form shows as an entry above the grid.
struct ParameterDesign {
    std::string name;
    std::string heading;
    Type type = Type::Text;
    std::string value;      ///< at opening, in plain form; "" = empty, which restricts nothing
    std::string hint = {};  ///< stands in the entry while it is empty; "" = "any"
    /// Field of the bound table that it is entered like: its choices, or its look-up with search; "" = by `type`.
    std::string like = {};
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const ParameterDesign&) const = default;
};

struct SourceDesign {
    std::string kind = "sqlite";
    std::string path;  ///< as written in the file; a relative one is meant from the design file's folder
    std::string table;
    std::string query;  ///< when not empty, instead of `table`
    /// By field, also of other tables ("vessel.built"): how values stand there that no declaration tells.
    std::map<std::string, ReadAs> readAs = {};
    std::string zone = {};      ///< whose clocks show points of time, "Europe/Berlin"; "" = the machine's
    std::string pictures = {};  ///< folder of pictures that values name, from the database's; "" = that one
    std::string unknown = {};   ///< keys of the file that this version does not know; kept
    bool operator==(const SourceDesign&) const = default;
};

enum class LineHeight {
    Fixed,      ///< every line of a record is `rowHeight` high
    Automatic,  ///< as high as its wrapped texts need, up to `mostLines` lines of text
};

enum class GridTheme { Automatic, Light, Dark };

/// What can be selected. The current cell moves in all of them.
enum class SelectionMode {
    OneRow,
    Rows,     ///< many records, by Ctrl, Shift, drag
    Cells,    ///< blocks of cells
    Columns,  ///< whole columns, side by side or not
    None,
};

/// A record that stays in sight at an edge of the grid, wherever the others are scrolled to.
struct PinnedRecord {
    enum class Edge { Top, Bottom };
    std::vector<std::string> key;  ///< values of the key fields in plain form
    Edge edge = Edge::Top;
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const PinnedRecord&) const = default;
};

struct GridDesign {
    int pinned = 0;          ///< how many of the first shown columns stay at the left while the rest scrolls
    int pinnedRight = 0;     ///< how many of the last ones stay at the right
    bool lastFills = false;  ///< the last scrolled column takes the room that is left
    bool stripes = true;
    bool lines = true;   ///< hairlines between rows
    int rowHeight = 26;  ///< pixels at 100 % scale, of one line of a record
    LineHeight lineHeight = LineHeight::Fixed;
    int mostLines = 6;  ///< lines of text a cell takes at most when the height is automatic
    GridTheme theme = GridTheme::Automatic;
    std::string look = {};   ///< a ready one (kReadyLooks) or one of `looks`; "" = the application's
    bool crossLight = true;  ///< record and column under the pointer are tinted
    bool filterRow = false;  ///< entries for conditions stand under the headings
    Saving saving = Saving::EachCell;
    bool keepsDrafts = false;  ///< cells and records may be left while they break a check; they stay marked
    bool canInsert = true;     ///< records may be added, where the source takes them
    bool canDelete = true;
    /// Field whose value is another one after each change of its record, whoever makes it; "" = edits are compared with
    /// the values that they were made on.
    std::string version = {};
    /// Field that holds who has changed the record last, as whoever writes says it: conflicts name them; "" = nobody.
    std::string changedBy = {};
    EntryLinePlace entryLine = EntryLinePlace::None;
    bool followsOthers = false;        ///< what others save of the records is shown as they do
    bool resortAtOnce = false;         ///< records move as soon as an edit is saved, not when asked
    bool turnedSummary = false;        ///< the summary table has its figures as rows
    bool doubleClickEdits = true;      ///< else it activates the record, and cells are edited by F2 or by typing
    int groupIndent = 14;              ///< pixels that each level of groups stands further in
    bool stickyGroups = true;          ///< the lines of open groups stay at the top while one scrolls in them
    bool totalFiltered = true;         ///< with summaries: the figures of the records shown stand at the foot
    bool totalAll = false;             ///< those of all records, filtered or not
    bool totalSelected = false;        ///< those of the selected records
    int totalHeight = 0;               ///< pixels at 100 % scale of each line of totals; 0 = a little over a row's
    std::string totalColour = {};      ///< behind the totals, "#rrggbb"; "" = the theme's
    std::string totalTextColour = {};  ///< "" = the theme's
    LineWeight totalWeight = LineWeight::Theme;
    SelectionMode selection = SelectionMode::Rows;
    /// Addresses that links may open by themselves, by their scheme: "https", "mailto"; none = the application alone
    /// hears of a press.
    std::vector<std::string> linkSchemes = {};
    int pictureMegabytes = 64;  ///< that drawn pictures may take in memory
    std::vector<PinnedRecord> pinnedRecords;
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const GridDesign&) const = default;
};

class TierEdit;

struct Design {
    static constexpr int kVersion = 1;
    int version = kVersion;
    std::string title;
    std::string locale;  ///< BCP 47, e.g. "de-DE"; "" = thin spaces between thousands, English names of days
    SourceDesign source;
    std::vector<TierDesign> tiers;      ///< in no particular order: the columns say where they stand
    std::vector<ColumnDesign> columns;  ///< in display order, hidden ones included
    std::vector<FilterDesign> filter;   ///< all that are on must hold
    std::vector<SortDesign> sort;       ///< most important first; empty = the bound order
    std::vector<SortRuleDesign> sortRules;
    std::vector<GroupDesign> groups;  ///< outermost first
    std::vector<SummaryDesign> summaries;
    std::vector<OperatorDesign> operators;
    std::vector<ParameterDesign> parameters;
    std::vector<FaceDesign> faces;      ///< that columns name
    std::vector<StyleDesign> styles;    ///< by conditions; of each property the first that sets it applies
    std::vector<LookDesign> looks;      ///< of the builder's own
    std::vector<BannerDesign> banners;  ///< at most BannerDesign::kMost
    std::vector<CheckDesign> checks;    ///< of what is entered
    GridDesign grid;
    std::string unknown;
    bool operator==(const Design&) const = default;

    /// nullptr when there is none. Valid until `columns` changes.
    ColumnDesign* column(std::string_view field);
    const ColumnDesign* column(std::string_view field) const;
    /// What is filtered at a column by its filter row or pick list.
    FilterDesign* filterAt(std::string_view field);
    const FilterDesign* filterAt(std::string_view field) const;
    const SortRuleDesign* sortRule(std::string_view name) const;
    const SummaryDesign* summary(std::string_view name) const;
    FaceDesign* findFace(std::string_view name);
    const FaceDesign* findFace(std::string_view name) const;
    /// The same for tiers.
    TierDesign* findTier(std::string_view name);
    const TierDesign* findTier(std::string_view name) const;
    /// The tier of that name to work on, made when there is none:
    /// `design.tier("Cost").add("hours", "labour").setToolTip("without tax")`.
    TierEdit tier(std::string_view name);
    /// What people call a field: its column's heading; that of the look-up for a look-up's label; else its name made
    /// readable ("owner_name" is "Owner name").
    std::string headingOf(std::string_view field) const;
};

}  // namespace jollyrow
