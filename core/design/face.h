// SPDX-License-Identifier: MIT
#pragma once
// Faces: how the cells of a column are composed, as a small tree of parts over the fields of a record. Plain values,
// kept in the design; several columns may share one. Included by design.h.

#include <string>
#include <string_view>
#include <vector>

#include "core/columns/type.h"
#include "core/formats/format_spec.h"

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
    int pixels = 100;          ///< for Fixed, at 100 % scale
    double weight = 1;         ///< for Share: 2 is twice 1
    int minimum = 32;          ///< pixels
    int maximum = 0;           ///< pixels; 0 = none
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const Width&) const = default;
};

/// How strong a text is.
enum class LineWeight { Theme, Regular, Medium, Bold };

enum class FacePartKind {
    Row,      ///< its parts side by side
    Column,   ///< its parts one beneath the other
    Stack,    ///< its parts over each other, the first at the bottom
    Text,     ///< `text`, a message pattern over any fields
    Field,    ///< one field, by `format`
    Mark,     ///< a shape, the first of `rules` that holds
    Bar,      ///< a number between two ends; several of them one behind the other
    Trend,    ///< numbers as a small line, area or columns: a list, or what one field held before and holds now
    Rating,   ///< a whole number as that many of `most` marks
    Swatch,   ///< a colour that is kept as a text, and the text
    Picture,  ///< PNG, JPEG or SVG: binary data, or the name of a file (SourceDesign::pictures)
    Link,     ///< as Text; the application is told when it is pressed
    Button,
    Spacer,  ///< room
};

/// Told apart by shape, not by colour alone.
enum class MarkShape {
    None,
    Disc,
    Ring,
    Half,  ///< a ring, half filled
    Square,
    Diamond,  ///< with an exclamation mark
    Triangle,
    Tick,
    Cross,
    Dash,
    Clock,
};

/// What a part looks like where a condition holds. Of several the first one that does.
struct FaceRule {
    std::string where;  ///< a condition of the rule language; "" = always
    std::string colour =
        {};  ///< "#rrggbb", or a name of the theme: ink, quiet, teal, buoy, brass, blue; "" = the part's
    MarkShape shape = MarkShape::None;
    LineWeight weight = LineWeight::Theme;
    std::string words = {};    ///< of a mark: what is read aloud, found and copied instead of the shape
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const FaceRule&) const = default;
};

enum class BarEnds {
    Data,      ///< the least and greatest sum of the records, 0 included
    Filtered,  ///< of the records that the filter leaves
    Fixed,     ///< `from` and `to`
};
enum class BarNumber { Beside, Within, None };

struct BarDesign {
    std::vector<std::string> fields =
        {};               ///< stacked in this order, lists of numbers by theirs; none = the part's field
    bool shares = false;  ///< each as its share of their sum
    BarEnds ends = BarEnds::Data;
    double from = 0;
    double to = 100;
    BarNumber number = BarNumber::Beside;
    bool axis = true;          ///< at the foot of the column, where the bar is all that its cells show
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const BarDesign&) const = default;
};

enum class TrendLook { Line, Area, Columns };

struct TrendDesign {
    TrendLook look = TrendLook::Line;
    bool marks = false;  ///< of the least and the greatest
    bool band = false;   ///< from `from` to `to`, behind: what is as it should be
    double from = 0;
    double to = 1;
    int last = 0;              ///< only so many at the end; 0 = all
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const TrendDesign&) const = default;
};

struct PictureDesign {
    bool fills = false;        ///< the whole place, cut at its edges; else all of it is seen
    bool enlarges = true;      ///< shown larger while the pointer rests on it
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const PictureDesign&) const = default;
};

struct FacePart {
    static constexpr std::size_t kMostParts = 200;
    static constexpr int kMostLevels = 12;
    FacePartKind kind = FacePartKind::Text;
    std::string field = {};  ///< what it shows; "" = the field of the column
    std::string text = {};   ///< ICU message pattern: "{owner.name} · {length} m"
    FormatSpec format = {};
    std::string colour = {};  ///< as of a rule
    LineWeight weight = LineWeight::Theme;
    int larger = 0;              ///< pixels that its text is larger than the grid's; smaller when negative
    std::string shownWhen = {};  ///< a condition; "" = always
    std::vector<FaceRule> rules = {};
    Alignment alignment = Alignment::Automatic;  ///< within its width
    Width width = {.minimum = 0};                ///< in a row
    std::string toolTip = {};                    ///< a message pattern
    std::string name = {};                       ///< of a link or button, by which the application knows it
    /// Of a link: a message pattern of the address it opens, where the grid allows the scheme
    /// (GridDesign::linkSchemes).
    std::string opens = {};
    int lines = 1;  ///< that a text may take; 0 = as many as there is room for
    int most = 5;   ///< of a rating
    BarDesign bar = {};
    TrendDesign trend = {};
    PictureDesign picture = {};
    std::vector<FacePart> parts = {};  ///< of a row, column or stack
    std::string unknown = {};          ///< keys of the file that this version does not know; kept
    bool operator==(const FacePart&) const = default;

    /// The same with one thing more: `face::text("{name}").when("name <> ''").quiet()`.
    FacePart when(std::string condition) &&;
    FacePart by(FaceRule rule) &&;
    FacePart coloured(std::string colour) &&;
    FacePart quiet() &&;
    FacePart sized(int larger, LineWeight weight = LineWeight::Theme) &&;
    FacePart fixed(int pixels) &&;
    FacePart share(double weight = 1) &&;
    FacePart wrapped(int lines = 0) &&;
    FacePart aligned(Alignment alignment) &&;
    FacePart withToolTip(std::string pattern) &&;
};

struct FaceDesign {
    std::string name;  ///< by which columns use it
    FacePart root;
    std::string unknown = {};  ///< keys of the file that this version does not know; kept
    bool operator==(const FaceDesign&) const = default;
};

constexpr bool holdsParts(FacePartKind kind) {
    return kind == FacePartKind::Row || kind == FacePartKind::Column || kind == FacePartKind::Stack;
}

/// Parts by the names that the design file has for them. A `field` of "" is that of the column.
namespace face {
FacePart row(std::vector<FacePart> parts);
FacePart column(std::vector<FacePart> parts);
FacePart stack(std::vector<FacePart> parts);
FacePart text(std::string pattern);
FacePart field(std::string field = {}, FormatSpec format = {});
FacePart mark(std::vector<FaceRule> rules);
FacePart bar(std::string field = {}, BarDesign bar = {});
FacePart trend(std::string field = {}, TrendLook look = TrendLook::Line);
FacePart trend(std::string field, TrendDesign trend);
FacePart rating(std::string field = {}, int most = 5);
FacePart swatch(std::string field = {});
FacePart picture(std::string field = {}, PictureDesign picture = {});
FacePart link(std::string name, std::string pattern);
FacePart button(std::string name, std::string pattern);
FacePart spacer(int pixels = 6);
}  // namespace face

/// "#rrggbb".
bool isColour(std::string_view text);
/// The same or one of the theme's names.
bool isInk(std::string_view text);

/// May a builder let links open addresses of this scheme (RFC 3986, 3.1)? Not files and not code: what stands in a
/// database would be run by whatever opens it.
bool mayOpen(std::string_view scheme);

/// The part at a path of child numbers from the root; null where there is none.
FacePart* partAt(FacePart& root, const std::vector<std::size_t>& path);
const FacePart* partAt(const FacePart& root, const std::vector<std::size_t>& path);
/// How many parts there are, the root included, and on how many levels. O(parts).
std::size_t partCount(const FacePart& root);
int partLevels(const FacePart& root);

/// Fields that a column of this type gets when a builder asks for a ready face.
enum class ReadyFace { Text, LongText, Status, Bar, Progress, Rating, Duration, Trend, Swatch, Link, Picture };
/// The ready ones that suit a type and use, the automatic face (Text) first.
std::vector<ReadyFace> readyFaces(Type type, Use use);
/// Does any part show the field of the column, so that other columns can use the face for theirs?
bool showsOwnField(const FacePart& root);
/// The face that a column without one has by its type, where that is a composed one: pictures. nullptr else.
const FacePart* automaticFace(Type type, Use use);
/// A tree of parts for it. Requires: not Text or LongText, which are the face by type, the latter of a column that
/// wraps.
FacePart readyFace(ReadyFace face, const std::vector<std::string>& choices = {});

}  // namespace jollyrow
