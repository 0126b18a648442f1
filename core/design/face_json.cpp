// SPDX-License-Identifier: MIT
#include "core/design/face_json.h"

#include <algorithm>
#include <limits>

#include "core/design/json_parts.h"

namespace jollyrow {
namespace {

using Json = nlohmann::ordered_json;

constexpr std::array<EnumName<FacePartKind>, 14> kKinds = {{{FacePartKind::Row, "row"},
                                                            {FacePartKind::Column, "column"},
                                                            {FacePartKind::Stack, "stack"},
                                                            {FacePartKind::Text, "text"},
                                                            {FacePartKind::Field, "field"},
                                                            {FacePartKind::Mark, "mark"},
                                                            {FacePartKind::Bar, "bar"},
                                                            {FacePartKind::Trend, "trend"},
                                                            {FacePartKind::Rating, "rating"},
                                                            {FacePartKind::Swatch, "swatch"},
                                                            {FacePartKind::Picture, "picture"},
                                                            {FacePartKind::Link, "link"},
                                                            {FacePartKind::Button, "button"},
                                                            {FacePartKind::Spacer, "spacer"}}};
constexpr std::array<EnumName<MarkShape>, 11> kShapes = {{{MarkShape::None, "none"},
                                                          {MarkShape::Disc, "disc"},
                                                          {MarkShape::Ring, "ring"},
                                                          {MarkShape::Half, "half"},
                                                          {MarkShape::Square, "square"},
                                                          {MarkShape::Diamond, "diamond"},
                                                          {MarkShape::Triangle, "triangle"},
                                                          {MarkShape::Tick, "tick"},
                                                          {MarkShape::Cross, "cross"},
                                                          {MarkShape::Dash, "dash"},
                                                          {MarkShape::Clock, "clock"}}};
constexpr std::array<EnumName<BarEnds>, 3> kEnds = {
    {{BarEnds::Data, "data"}, {BarEnds::Filtered, "filtered"}, {BarEnds::Fixed, "fixed"}}};
constexpr std::array<EnumName<BarNumber>, 3> kNumbers = {
    {{BarNumber::Beside, "beside"}, {BarNumber::Within, "within"}, {BarNumber::None, "none"}}};
constexpr std::array<EnumName<TrendLook>, 3> kTrends = {
    {{TrendLook::Line, "line"}, {TrendLook::Area, "area"}, {TrendLook::Columns, "columns"}}};

Json jsonOf(const FaceRule& rule) {
    const FaceRule usual;
    Json out = Json::object();
    put(out, "where", rule.where, usual.where);
    put(out, "colour", rule.colour, usual.colour);
    put(out, "shape", rule.shape, usual.shape, kShapes);
    put(out, "textWeight", rule.weight, usual.weight, kLineWeights);
    put(out, "words", rule.words, usual.words);
    addUnknown(out, rule.unknown);
    return out;
}

Json jsonOf(const Width& width) {
    const Width usual = FacePart{}.width;
    Json out = {{"mode", nameOf(kWidthModes, width.mode)}};
    put(out, "pixels", width.pixels, usual.pixels);
    put(out, "weight", width.weight, usual.weight);
    put(out, "minimum", width.minimum, usual.minimum);
    put(out, "maximum", width.maximum, usual.maximum);
    addUnknown(out, width.unknown);
    return out;
}

Json jsonOf(const BarDesign& bar) {
    const BarDesign usual;
    Json out = Json::object();
    put(out, "fields", bar.fields, usual.fields);
    put(out, "shares", bar.shares, usual.shares);
    put(out, "ends", bar.ends, usual.ends, kEnds);
    put(out, "from", bar.from, usual.from);
    put(out, "to", bar.to, usual.to);
    put(out, "number", bar.number, usual.number, kNumbers);
    put(out, "axis", bar.axis, usual.axis);
    addUnknown(out, bar.unknown);
    return out;
}

Json jsonOf(const TrendDesign& trend) {
    const TrendDesign usual;
    Json out = Json::object();
    put(out, "look", trend.look, usual.look, kTrends);
    put(out, "marks", trend.marks, usual.marks);
    put(out, "band", trend.band, usual.band);
    put(out, "from", trend.from, usual.from);
    put(out, "to", trend.to, usual.to);
    put(out, "last", trend.last, usual.last);
    addUnknown(out, trend.unknown);
    return out;
}

Json jsonOf(const PictureDesign& picture) {
    const PictureDesign usual;
    Json out = Json::object();
    put(out, "fills", picture.fills, usual.fills);
    put(out, "enlarges", picture.enlarges, usual.enlarges);
    addUnknown(out, picture.unknown);
    return out;
}

Json jsonOf(const FacePart& part) {
    const FacePart usual;
    Json out = {{"kind", nameOf(kKinds, part.kind)}};
    put(out, "field", part.field, usual.field);
    put(out, "text", part.text, usual.text);
    if (part.format != usual.format) out["format"] = jsonOf(part.format);
    put(out, "colour", part.colour, usual.colour);
    put(out, "textWeight", part.weight, usual.weight, kLineWeights);
    put(out, "larger", part.larger, usual.larger);
    put(out, "shownWhen", part.shownWhen, usual.shownWhen);
    for (const FaceRule& rule : part.rules) out["rules"].push_back(jsonOf(rule));
    put(out, "alignment", part.alignment, usual.alignment, kAlignments);
    if (part.width != usual.width) out["width"] = jsonOf(part.width);
    put(out, "toolTip", part.toolTip, usual.toolTip);
    put(out, "name", part.name, usual.name);
    put(out, "opens", part.opens, usual.opens);
    put(out, "lines", part.lines, usual.lines);
    put(out, "most", part.most, usual.most);
    if (part.bar != usual.bar) out["bar"] = jsonOf(part.bar);
    if (part.trend != usual.trend) out["trend"] = jsonOf(part.trend);
    if (part.picture != usual.picture) out["picture"] = jsonOf(part.picture);
    for (const FacePart& child : part.parts) out["parts"].push_back(jsonOf(child));
    addUnknown(out, part.unknown);
    return out;
}

void readInk(ObjectReader& reader, const char* key, std::string& ink, std::vector<Finding>& findings) {
    reader.read(key, ink);
    if (ink.empty() || isInk(ink)) return;
    findings.push_back(
        {Severity::Warning, reader.path(key),
         fmt::format("\"{}\" is no colour; it is written like #1e7f78, or ink, quiet, teal, buoy, brass or blue. The "
                     "theme's is used.",
                     ink),
         ""});
    ink.clear();
}

FaceRule ruleFrom(const Json& json, const std::string& where, std::vector<Finding>& findings) {
    FaceRule rule;
    ObjectReader reader(json, where, findings);
    reader.read("where", rule.where);
    readInk(reader, "colour", rule.colour, findings);
    reader.read("shape", rule.shape, kShapes);
    reader.read("textWeight", rule.weight, kLineWeights);
    reader.read("words", rule.words);
    rule.unknown = reader.unknown();
    return rule;
}

Width widthFrom(const Json& json, const std::string& where, std::vector<Finding>& findings) {
    Width width = FacePart{}.width;
    ObjectReader reader(json, where, findings);
    reader.read("mode", width.mode, kWidthModes);
    reader.read("pixels", width.pixels, 0, Width::kMostPixels);
    reader.read("weight", width.weight, 0.01, 1000.0);
    reader.read("minimum", width.minimum, 0, Width::kMostPixels);
    reader.read("maximum", width.maximum, 0, Width::kMostPixels);
    width.unknown = reader.unknown();
    return width;
}

BarDesign barFrom(const Json& json, const std::string& where, std::vector<Finding>& findings) {
    constexpr double kFar = 1e300;
    BarDesign bar;
    ObjectReader reader(json, where, findings);
    reader.read("fields", bar.fields);
    reader.read("shares", bar.shares);
    reader.read("ends", bar.ends, kEnds);
    reader.read("from", bar.from, -kFar, kFar);
    reader.read("to", bar.to, -kFar, kFar);
    reader.read("number", bar.number, kNumbers);
    reader.read("axis", bar.axis);
    bar.unknown = reader.unknown();
    if (bar.ends == BarEnds::Fixed && !(bar.from < bar.to)) {
        findings.push_back({Severity::Warning, where + "/to",
                            fmt::format("A bar from {} to {} has no length; it goes from 0 to 100.", bar.from, bar.to),
                            ""});
        bar.from = 0;
        bar.to = 100;
    }
    return bar;
}

TrendDesign trendFrom(const Json& json, const std::string& where, std::vector<Finding>& findings) {
    constexpr double kFar = 1e300;
    TrendDesign trend;
    ObjectReader reader(json, where, findings);
    reader.read("look", trend.look, kTrends);
    reader.read("marks", trend.marks);
    reader.read("band", trend.band);
    reader.read("from", trend.from, -kFar, kFar);
    reader.read("to", trend.to, -kFar, kFar);
    reader.read("last", trend.last, 0, 100'000);
    trend.unknown = reader.unknown();
    if (trend.band && !(trend.from < trend.to)) {
        findings.push_back({Severity::Warning, where + "/to",
                            fmt::format("A band from {} to {} has no height; it is left out.", trend.from, trend.to),
                            ""});
        trend.band = false;
    }
    return trend;
}

PictureDesign pictureFrom(const Json& json, const std::string& where, std::vector<Finding>& findings) {
    PictureDesign picture;
    ObjectReader reader(json, where, findings);
    reader.read("fills", picture.fills);
    reader.read("enlarges", picture.enlarges);
    picture.unknown = reader.unknown();
    return picture;
}

/// `parts` counts those of the whole face. What is too much is left out; the caller says so.
FacePart partFrom(const Json& json, const std::string& where, int level, std::size_t& parts,
                  std::vector<Finding>& findings) {
    FacePart part;
    ++parts;
    ObjectReader reader(json, where, findings);
    reader.read("kind", part.kind, kKinds);
    reader.read("field", part.field);
    reader.read("text", part.text);
    readFormat(reader, part.format, findings);
    readInk(reader, "colour", part.colour, findings);
    reader.read("textWeight", part.weight, kLineWeights);
    reader.read("larger", part.larger, -8, 40);
    reader.read("shownWhen", part.shownWhen);
    reader.read("alignment", part.alignment, kAlignments);
    reader.read("toolTip", part.toolTip);
    reader.read("name", part.name);
    reader.read("opens", part.opens);
    reader.read("lines", part.lines, 0, 50);
    reader.read("most", part.most, 1, 20);
    // Files of before have its look alone.
    if (const auto old = json.find("trend"); old != json.end() && old->is_string())
        reader.read("trend", part.trend.look, kTrends);
    else if (const Json* trend = reader.object("trend"))
        part.trend = trendFrom(*trend, reader.path("trend"), findings);
    if (const Json* width = reader.object("width")) part.width = widthFrom(*width, reader.path("width"), findings);
    if (const Json* bar = reader.object("bar")) part.bar = barFrom(*bar, reader.path("bar"), findings);
    if (const Json* picture = reader.object("picture"))
        part.picture = pictureFrom(*picture, reader.path("picture"), findings);
    const Json* rules = reader.array("rules");
    for (std::size_t i = 0; rules && i < std::min<std::size_t>(rules->size(), 100); ++i)
        if ((*rules)[i].is_object())
            part.rules.push_back(ruleFrom((*rules)[i], fmt::format("{}/rules/{}", where, i), findings));
    const Json* children = reader.array("parts");
    for (std::size_t i = 0; children && i < children->size() && parts <= FacePart::kMostParts; ++i) {
        const std::string inner = fmt::format("{}/parts/{}", where, i);
        if (!(*children)[i].is_object())
            findings.push_back({Severity::Warning, inner, inner + " is not an object; it is left out.", ""});
        else if (level < FacePart::kMostLevels)
            part.parts.push_back(partFrom((*children)[i], inner, level + 1, parts, findings));
        else
            parts = FacePart::kMostParts + 1;
    }
    part.unknown = reader.unknown();
    return part;
}

}  // namespace

Json jsonOf(const FaceDesign& face) {
    Json out = {{"name", face.name}, {"root", jsonOf(face.root)}};
    addUnknown(out, face.unknown);
    return out;
}

namespace {

constexpr std::array<EnumName<StyledLines>, 3> kStyledLines = {
    {{StyledLines::Records, "records"}, {StyledLines::Groups, "groups"}, {StyledLines::Totals, "totals"}}};

Json jsonOf(const StyleIcon& icon) {
    Json out = {{"shape", nameOf(kShapes, icon.shape)}};
    put(out, "colour", icon.colour, std::string());
    addUnknown(out, icon.unknown);
    return out;
}

}  // namespace

Json jsonOf(const StyleDesign& style) {
    const StyleDesign usual;
    Json out = {{"name", style.name}};
    put(out, "lines", style.lines, usual.lines, kStyledLines);
    put(out, "where", style.where, usual.where);
    put(out, "columns", style.columns, usual.columns);
    put(out, "ink", style.ink, usual.ink);
    put(out, "background", style.background, usual.background);
    put(out, "textWeight", style.weight, usual.weight, kLineWeights);
    put(out, "italic", style.italic, usual.italic);
    put(out, "strike", style.strike, usual.strike);
    put(out, "lowest", style.lowest, usual.lowest);
    put(out, "middle", style.middle, usual.middle);
    put(out, "highest", style.highest, usual.highest);
    for (const StyleIcon& icon : style.icons) out["icons"].push_back(jsonOf(icon));
    put(out, "last", style.last, usual.last);
    put(out, "on", style.on, usual.on);
    addUnknown(out, style.unknown);
    return out;
}

static void readIcons(ObjectReader& style, std::vector<StyleIcon>& icons, std::vector<Finding>& findings) {
    forEachObject(style, "icons", StyleDesign::kMostIcons, findings,
                  [&](const Json& json, const std::string& where, const auto&) {
                      ObjectReader reader(json, where, findings);
                      StyleIcon& icon = icons.emplace_back();
                      reader.read("shape", icon.shape, kShapes);
                      readInk(reader, "colour", icon.colour, findings);
                      icon.unknown = reader.unknown();
                  });
}

void readStyles(ObjectReader& design, std::vector<StyleDesign>& styles, std::vector<Finding>& findings) {
    constexpr std::size_t kMost = 1000;
    forEachObject(design, "styles", kMost, findings, [&](const Json& json, const std::string& where, const auto&) {
        StyleDesign style;
        ObjectReader reader(json, where, findings);
        reader.read("name", style.name);
        reader.read("lines", style.lines, kStyledLines);
        reader.read("where", style.where);
        reader.read("columns", style.columns);
        readInk(reader, "ink", style.ink, findings);
        readInk(reader, "background", style.background, findings);
        reader.read("textWeight", style.weight, kLineWeights);
        reader.read("italic", style.italic);
        reader.read("strike", style.strike);
        readInk(reader, "lowest", style.lowest, findings);
        readInk(reader, "middle", style.middle, findings);
        readInk(reader, "highest", style.highest, findings);
        readIcons(reader, style.icons, findings);
        reader.read("last", style.last);
        reader.read("on", style.on);
        style.unknown = reader.unknown();
        // A scale has two ends.
        if (style.lowest.empty() != style.highest.empty()) {
            findings.push_back({Severity::Warning, where,
                                fmt::format("The scale of {} has one end; it has no effect.", style.name), ""});
            style.lowest.clear();
            style.highest.clear();
        }
        styles.push_back(std::move(style));
    });
}

Json jsonOf(const BannerDesign& banner) {
    const BannerDesign usual;
    Json out = {{"where", banner.where}};
    put(out, "caption", banner.caption, usual.caption);
    put(out, "heads", banner.heads, usual.heads);
    put(out, "ink", banner.ink, usual.ink);
    put(out, "background", banner.background, usual.background);
    put(out, "textWeight", banner.weight, usual.weight, kLineWeights);
    put(out, "alignment", banner.alignment, usual.alignment, kAlignments);
    addUnknown(out, banner.unknown);
    return out;
}

void readBanners(ObjectReader& design, std::vector<BannerDesign>& banners, std::vector<Finding>& findings) {
    constexpr std::size_t kMost = 1000;  // looked at
    forEachObject(design, "banners", kMost, findings,
                  [&](const Json& json, const std::string& where, const auto& leaveOut) {
                      BannerDesign banner;
                      ObjectReader reader(json, where, findings);
                      reader.read("where", banner.where);
                      reader.read("caption", banner.caption);
                      reader.read("heads", banner.heads);
                      readInk(reader, "ink", banner.ink, findings);
                      readInk(reader, "background", banner.background, findings);
                      reader.read("textWeight", banner.weight, kLineWeights);
                      reader.read("alignment", banner.alignment, kAlignments);
                      banner.unknown = reader.unknown();
                      if (banner.where.empty())
                          leaveOut("has no condition");
                      else if (banners.size() == BannerDesign::kMost)
                          leaveOut(fmt::format("is one more than {}", BannerDesign::kMost));
                      else
                          banners.push_back(std::move(banner));
                  });
}

void readFaces(ObjectReader& design, std::vector<FaceDesign>& faces, std::vector<Finding>& findings) {
    constexpr std::size_t kAll = std::numeric_limits<std::size_t>::max();
    forEachObject(
        design, "faces", kAll, findings, [&](const Json& json, const std::string& where, const auto& leaveOut) {
            FaceDesign face;
            ObjectReader reader(json, where, findings);
            reader.read("name", face.name);
            std::size_t parts = 0;
            if (const Json* root = reader.object("root"))
                face.root = partFrom(*root, reader.path("root"), 1, parts, findings);
            face.unknown = reader.unknown();
            const bool known =
                std::any_of(faces.begin(), faces.end(), [&](const FaceDesign& f) { return f.name == face.name; });
            if (face.name.empty() || known)
                leaveOut(face.name.empty() ? "has no name" : fmt::format("has the name {} of another", face.name));
            else if (parts > FacePart::kMostParts)
                leaveOut(
                    fmt::format("has more than {} parts or {} levels", FacePart::kMostParts, FacePart::kMostLevels));
            else
                faces.push_back(std::move(face));
        });
}

}  // namespace jollyrow
