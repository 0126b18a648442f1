// SPDX-License-Identifier: MIT
#include "core/design/face.h"

#include <algorithm>
#include <array>
#include <utility>

namespace jollyrow {
namespace {

FacePart partOf(FacePartKind kind, std::string field) {
    FacePart part;
    part.kind = kind;
    part.field = std::move(field);
    return part;
}

FacePart holding(FacePartKind kind, std::vector<FacePart> parts) {
    FacePart part;
    part.kind = kind;
    part.parts = std::move(parts);
    return part;
}

/// As a literal of the rule language.
std::string quoted(const std::string& text) {
    std::string out = "'";
    for (const char c : text) out += c == '\'' ? std::string("''") : std::string(1, c);
    return out + "'";
}

}  // namespace

FacePart FacePart::when(std::string condition) && {
    shownWhen = std::move(condition);
    return std::move(*this);
}
FacePart FacePart::by(FaceRule rule) && {
    rules.push_back(std::move(rule));
    return std::move(*this);
}
FacePart FacePart::coloured(std::string ink) && {
    colour = std::move(ink);
    return std::move(*this);
}
FacePart FacePart::quiet() && { return std::move(*this).coloured("quiet"); }
FacePart FacePart::sized(int by, LineWeight strength) && {
    larger = by;
    weight = strength;
    return std::move(*this);
}
FacePart FacePart::fixed(int pixels) && {
    width.mode = WidthMode::Fixed;
    width.pixels = pixels;
    return std::move(*this);
}
FacePart FacePart::share(double part) && {
    width.mode = WidthMode::Share;
    width.weight = part;
    return std::move(*this);
}
FacePart FacePart::wrapped(int atMost) && {
    lines = atMost;
    return std::move(*this);
}
FacePart FacePart::aligned(Alignment to) && {
    alignment = to;
    return std::move(*this);
}
FacePart FacePart::withToolTip(std::string pattern) && {
    toolTip = std::move(pattern);
    return std::move(*this);
}

namespace face {

FacePart row(std::vector<FacePart> parts) { return holding(FacePartKind::Row, std::move(parts)); }
FacePart column(std::vector<FacePart> parts) { return holding(FacePartKind::Column, std::move(parts)); }
FacePart stack(std::vector<FacePart> parts) { return holding(FacePartKind::Stack, std::move(parts)); }
FacePart text(std::string pattern) {
    FacePart part;
    part.text = std::move(pattern);
    return part;
}
FacePart field(std::string name, FormatSpec format) {
    FacePart part = partOf(FacePartKind::Field, std::move(name));
    part.format = std::move(format);
    return part;
}
FacePart mark(std::vector<FaceRule> rules) {
    FacePart part = partOf(FacePartKind::Mark, {});
    part.rules = std::move(rules);
    return part;
}
FacePart bar(std::string name, BarDesign design) {
    FacePart part = partOf(FacePartKind::Bar, std::move(name)).share();
    part.bar = std::move(design);
    return part;
}
FacePart trend(std::string name, TrendLook look) {
    TrendDesign trend;
    trend.look = look;
    return face::trend(std::move(name), std::move(trend));
}
FacePart trend(std::string name, TrendDesign trend) {
    FacePart part = partOf(FacePartKind::Trend, std::move(name)).share();
    part.trend = std::move(trend);
    return part;
}
FacePart rating(std::string name, int most) {
    FacePart part = partOf(FacePartKind::Rating, std::move(name));
    part.most = most;
    return part;
}
FacePart swatch(std::string name) { return partOf(FacePartKind::Swatch, std::move(name)); }
FacePart picture(std::string name, PictureDesign picture) {
    FacePart part = partOf(FacePartKind::Picture, std::move(name));
    part.picture = std::move(picture);
    return part;
}
FacePart link(std::string name, std::string pattern) {
    FacePart part = text(std::move(pattern));
    part.kind = FacePartKind::Link;
    part.name = std::move(name);
    return part;
}
FacePart button(std::string name, std::string pattern) {
    FacePart part = link(std::move(name), std::move(pattern));
    part.kind = FacePartKind::Button;
    return part;
}
FacePart spacer(int pixels) { return partOf(FacePartKind::Spacer, {}).fixed(pixels); }

}  // namespace face

bool isColour(std::string_view text) {
    return text.size() == 7 && text[0] == '#' &&
           text.find_first_not_of("0123456789abcdefABCDEF", 1) == std::string_view::npos;
}

bool isInk(std::string_view text) {
    constexpr std::string_view kNames[] = {"ink", "quiet", "teal", "buoy", "brass", "blue"};
    return isColour(text) || std::find(std::begin(kNames), std::end(kNames), text) != std::end(kNames);
}

bool mayOpen(std::string_view scheme) {
    constexpr std::string_view kNever[] = {"file", "javascript", "data", "vbscript", "qrc", "about", "view-source"};
    if (scheme.empty() || scheme.size() > 40 || !(scheme[0] >= 'a' && scheme[0] <= 'z')) return false;
    const bool isWritten = std::all_of(scheme.begin(), scheme.end(), [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '+' || c == '-' || c == '.';
    });
    return isWritten && std::find(std::begin(kNever), std::end(kNever), scheme) == std::end(kNever);
}

const FacePart* partAt(const FacePart& root, const std::vector<std::size_t>& path) {
    const FacePart* at = &root;
    for (const std::size_t child : path) {
        if (child >= at->parts.size()) return nullptr;
        at = &at->parts[child];
    }
    return at;
}

FacePart* partAt(FacePart& root, const std::vector<std::size_t>& path) {
    return const_cast<FacePart*>(partAt(std::as_const(root), path));
}

std::size_t partCount(const FacePart& root) {
    std::size_t count = 1;
    for (const FacePart& part : root.parts) count += partCount(part);
    return count;
}

int partLevels(const FacePart& root) {
    int deepest = 0;
    for (const FacePart& part : root.parts) deepest = std::max(deepest, partLevels(part));
    return deepest + 1;
}

bool showsOwnField(const FacePart& root) {
    if (holdsParts(root.kind)) return std::any_of(root.parts.begin(), root.parts.end(), showsOwnField);
    const bool isText =
        root.kind == FacePartKind::Text || root.kind == FacePartKind::Link || root.kind == FacePartKind::Button;
    return root.field.empty() && root.kind != FacePartKind::Mark && root.kind != FacePartKind::Spacer &&
           !(isText && !root.text.empty()) && root.bar.fields.empty();
}

std::vector<ReadyFace> readyFaces(Type type, Use use) {
    if (use == Use::LookUp) return {ReadyFace::Text, ReadyFace::Link};  // its number is a key, which means nothing
    switch (type) {
        case Type::Integer:
            return {ReadyFace::Text,   ReadyFace::Bar,      ReadyFace::Progress,
                    ReadyFace::Rating, ReadyFace::Duration, ReadyFace::Trend};
        case Type::Decimal:
        case Type::Real:
            return {ReadyFace::Text, ReadyFace::Bar, ReadyFace::Progress, ReadyFace::Duration, ReadyFace::Trend};
        case Type::Text:
            return {ReadyFace::Text, ReadyFace::LongText, ReadyFace::Status,
                    ReadyFace::Link, ReadyFace::Swatch,   ReadyFace::Picture};
        case Type::NumberList: return {ReadyFace::Text, ReadyFace::Trend, ReadyFace::Bar};
        case Type::Binary:
            if (use == Use::Picture) return {ReadyFace::Text};
            return {ReadyFace::Text, ReadyFace::Picture};
        case Type::Boolean:
        case Type::Date:
        case Type::Time:
        case Type::Timestamp:
        case Type::Instant:
        case Type::Interval: break;
    }
    return {ReadyFace::Text};
}

const FacePart* automaticFace(Type type, Use use) {
    static const FacePart picture = face::picture();
    return type == Type::Binary && use == Use::Picture ? &picture : nullptr;
}

FacePart readyFace(ReadyFace which, const std::vector<std::string>& choices) {
    switch (which) {
        case ReadyFace::Text:
        case ReadyFace::LongText: break;
        case ReadyFace::Duration: {
            FormatSpec hours;
            hours.style = FormatStyle::Duration;
            hours.pattern = "h:mm";
            return face::row({face::field({}, hours).share().aligned(Alignment::Right)});
        }
        case ReadyFace::Status: {
            constexpr std::array<MarkShape, 8> kShapes = {MarkShape::Ring,     MarkShape::Half, MarkShape::Disc,
                                                          MarkShape::Clock,    MarkShape::Tick, MarkShape::Square,
                                                          MarkShape::Triangle, MarkShape::Cross};
            constexpr std::array<const char*, 5> kInks = {"quiet", "brass", "blue", "buoy", "teal"};
            std::vector<FaceRule> rules;
            for (std::size_t i = 0; i < choices.size() && i < kShapes.size(); ++i)
                rules.push_back({"value = " + quoted(choices[i]), kInks[i % kInks.size()], kShapes[i]});
            if (rules.empty()) rules.push_back({"", "teal", MarkShape::Disc});
            return face::row({face::mark(std::move(rules)), face::field()});
        }
        case ReadyFace::Bar: return face::bar();
        case ReadyFace::Progress: {
            BarDesign bar;
            bar.ends = BarEnds::Fixed;
            return face::bar({}, bar);
        }
        case ReadyFace::Rating: return face::rating();
        case ReadyFace::Trend: return face::trend();
        case ReadyFace::Swatch: return face::swatch();
        case ReadyFace::Picture: return face::picture();
        case ReadyFace::Link: return face::link("open", "");
    }
    return face::field();
}

}  // namespace jollyrow
