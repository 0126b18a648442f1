// SPDX-License-Identifier: MIT
// Covered by tests/design/face_edit_test.cpp: random edits against a plain list of leaves.
#include "core/design/face_edit.h"

#include <fmt/format.h>

#include <algorithm>

namespace jollyrow {
namespace {

const std::string kMoving = "\x01moving", kLanded = "\x01landed";

FacePath parentOf(const FacePath& path) { return {path.begin(), path.end() - 1}; }

std::optional<FacePath> pathOf(const FacePart& part, const std::string& mark) {
    if (part.unknown == mark) return FacePath{};
    for (std::size_t i = 0; i < part.parts.size(); ++i)
        if (auto inner = pathOf(part.parts[i], mark)) {
            inner->insert(inner->begin(), i);
            return inner;
        }
    return std::nullopt;
}

bool fits(const FacePart& root) {
    return partCount(root) <= FacePart::kMostParts && partLevels(root) <= FacePart::kMostLevels;
}

/// Has it a say of its own, so that it is more than a place for its parts?
bool isMeaningful(const FacePart& part) {
    return !part.shownWhen.empty() || !part.rules.empty() || !part.toolTip.empty() || !part.unknown.empty();
}

/// Takes out containers that hold nothing, and those of one part, from `path` up.
FacePath tidied(FacePart& root, FacePath path) {
    while (true) {
        FacePart* at = partAt(root, path);
        if (holdsParts(at->kind) && at->parts.size() == 1 && !isMeaningful(*at)) {
            FacePart inner = std::move(at->parts.front());
            if (inner.width == FacePart{}.width) inner.width = at->width;
            *at = std::move(inner);
        } else if (holdsParts(at->kind) && at->parts.empty() && !path.empty()) {
            FacePart* parent = partAt(root, parentOf(path));
            parent->parts.erase(parent->parts.begin() + static_cast<std::ptrdiff_t>(path.back()));
        }
        if (path.empty()) break;
        path.pop_back();
    }
    if (holdsParts(root.kind) && root.parts.empty()) root = face::field();
    return path;
}

void wrap(FacePart& target, FacePart part, FacePartKind kind, bool before) {
    FacePart inner = std::move(target);
    FacePart outer;
    outer.kind = kind;
    outer.width = inner.width;
    if (kind == FacePartKind::Column) inner.width = FacePart{}.width;
    outer.parts.push_back(std::move(inner));
    outer.parts.insert(before ? outer.parts.begin() : outer.parts.end(), std::move(part));
    target = std::move(outer);
}

bool beginsWith(const FacePath& path, const FacePath& start) {
    return path.size() >= start.size() && std::equal(start.begin(), start.end(), path.begin());
}

}  // namespace

std::optional<FacePath> insertPart(FacePart& root, FacePart part, const FaceLanding& landing) {
    FacePart next = root;
    FacePart* target = partAt(next, landing.at);
    if (!target) return std::nullopt;
    const std::string kept = std::exchange(part.unknown, kLanded);
    const bool before = landing.side == FaceSide::Before || landing.side == FaceSide::Above;
    const FacePartKind kind =
        landing.side == FaceSide::Above || landing.side == FaceSide::Below ? FacePartKind::Column : FacePartKind::Row;
    FacePart* parent = landing.at.empty() ? nullptr : partAt(next, parentOf(landing.at));
    if (parent && parent->kind == kind) {
        const auto place = static_cast<std::ptrdiff_t>(landing.at.back() + (before ? 0 : 1));
        parent->parts.insert(parent->parts.begin() + place, std::move(part));
    } else if (target->kind == kind) {
        target->parts.insert(before ? target->parts.begin() : target->parts.end(), std::move(part));
    } else {
        wrap(*target, std::move(part), kind, before);
    }
    if (!fits(next)) return std::nullopt;
    auto path = pathOf(next, kLanded);
    if (!path) return std::nullopt;
    partAt(next, *path)->unknown = kept;
    root = std::move(next);
    return path;
}

std::optional<FacePath> removePart(FacePart& root, const FacePath& path) {
    if (!partAt(root, path)) return std::nullopt;
    if (path.empty()) {
        root = face::field();
        return FacePath{};
    }
    FacePart* parent = partAt(root, parentOf(path));
    parent->parts.erase(parent->parts.begin() + static_cast<std::ptrdiff_t>(path.back()));
    FacePath near = path;
    tidied(root, parentOf(path));
    // What stands in its place now, else what is nearest.
    while (!near.empty() && !partAt(root, near)) {
        if (near.back() > 0 && partAt(root, parentOf(near)) && !partAt(root, parentOf(near))->parts.empty()) {
            near.back() = partAt(root, parentOf(near))->parts.size() - 1;
            break;
        }
        near.pop_back();
    }
    return near;
}

std::optional<FacePath> movePart(FacePart& root, const FacePath& from, const FaceLanding& to) {
    const FacePart* moved = partAt(root, from);
    if (!moved || from.empty() || beginsWith(to.at, from)) return std::nullopt;
    FacePart next = root;
    FacePart part = *moved;
    // An own mark for each: the paths of both change while the tree does.
    const std::string kept = part.unknown;
    partAt(next, from)->unknown = kMoving;
    const auto landed = insertPart(next, std::move(part), to);
    if (!landed) return std::nullopt;
    partAt(next, *landed)->unknown = kLanded;
    const auto old = pathOf(next, kMoving);
    if (!old || !removePart(next, *old)) return std::nullopt;
    const auto path = pathOf(next, kLanded);
    if (!path) return std::nullopt;
    partAt(next, *path)->unknown = kept;
    root = std::move(next);
    return path;
}

bool shiftPart(FacePart& root, FacePath& path, int by) {
    if (path.empty()) return false;
    FacePart* parent = partAt(root, parentOf(path));
    const auto to = static_cast<std::ptrdiff_t>(path.back()) + by;
    if (!parent || to < 0 || to >= static_cast<std::ptrdiff_t>(parent->parts.size())) return false;
    std::swap(parent->parts[path.back()], parent->parts[static_cast<std::size_t>(to)]);
    path.back() = static_cast<std::size_t>(to);
    return true;
}

std::string partWords(const FacePart& part, const Design& design, const std::string& ownField) {
    const std::string field = design.headingOf(part.field.empty() ? ownField : part.field);
    const auto text = [&](const char* kind) {
        return part.text.empty() ? fmt::format("{} {}", kind, field) : fmt::format("{} {}", kind, part.text);
    };
    switch (part.kind) {
        case FacePartKind::Row: return fmt::format("{} side by side", part.parts.size());
        case FacePartKind::Column: return fmt::format("{} lines", part.parts.size());
        case FacePartKind::Stack: return fmt::format("{} over each other", part.parts.size());
        case FacePartKind::Text: return text("text");
        case FacePartKind::Field: return field;
        case FacePartKind::Mark: return "mark";
        case FacePartKind::Bar: return part.bar.fields.empty() ? "bar of " + field : "stacked bar";
        case FacePartKind::Trend: return "trend of " + field;
        case FacePartKind::Rating: return "rating of " + field;
        case FacePartKind::Swatch: return "colour " + field;
        case FacePartKind::Picture: return "picture " + field;
        case FacePartKind::Link: return text("link");
        case FacePartKind::Button: return text("button");
        case FacePartKind::Spacer: return "room";
    }
    return {};
}

std::string freeFaceName(const Design& design, const std::string& wish) {
    std::string name = wish.empty() ? "face" : wish;
    for (int n = 2; design.findFace(name); ++n) name = fmt::format("{} {}", wish.empty() ? "face" : wish, n);
    return name;
}

int usersOf(const Design& design, const std::string& face) {
    return static_cast<int>(std::count_if(design.columns.begin(), design.columns.end(),
                                          [&](const ColumnDesign& c) { return c.face == face; }));
}

bool renameFace(Design& design, const std::string& from, const std::string& to) {
    FaceDesign* face = design.findFace(from);
    if (!face || to.empty() || (to != from && design.findFace(to))) return false;
    face->name = to;
    for (ColumnDesign& column : design.columns)
        if (column.face == from) column.face = to;
    return true;
}

bool shareFace(Design& design, const std::string& field, const std::string& face) {
    ColumnDesign* column = design.column(field);
    if (!column || !design.findFace(face)) return false;
    if (column->face == face) return true;
    dropFace(design, field);
    column->face = face;
    return true;
}

void composeFace(Design& design, const std::string& field, FacePart root) {
    const ColumnDesign* column = design.column(field);
    FaceDesign* face = column ? design.findFace(column->face) : nullptr;
    if (!face) return giveFace(design, field, std::move(root));
    face->root = std::move(root);
}

void giveFace(Design& design, const std::string& field, FacePart root) {
    ColumnDesign* column = design.column(field);
    if (!column) return;
    FaceDesign* own = design.findFace(column->face);
    if (own && usersOf(design, own->name) == 1) {
        own->root = std::move(root);
        return;
    }
    column->face = freeFaceName(design, column->heading.empty() ? field : column->heading);
    design.faces.push_back({column->face, std::move(root)});
}

void dropFace(Design& design, const std::string& field) {
    ColumnDesign* column = design.column(field);
    if (!column) return;
    const std::string was = std::exchange(column->face, {});
    if (usersOf(design, was) == 0) std::erase_if(design.faces, [&](const FaceDesign& f) { return f.name == was; });
}

}  // namespace jollyrow
