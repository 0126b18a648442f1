// SPDX-License-Identifier: MIT
// Idea: the flat design is unfolded into a small tree of nodes, one operation is done on the tree, and it is folded
// back. A node is a tier or a column; columns standing beneath another hang on it and are not nodes of their own.
// Unfolding is where a damaged design is mended: whatever comes back is in order, so no operation has to look after it.
//   columns a(T) b c(T), tiers T  ->  [T: a c] b  ->  columns a(T) c(T) b
// O(n * depth) a step. Covered by tests/design/tier_tree_test.cpp against a slow model, with random trees and moves.
#include "core/design/tier_tree.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

namespace jollyrow {
namespace {

constexpr int kNone = -1;

struct Node {
    int tier = kNone;    ///< index into design.tiers
    int column = kNone;  ///< index into design.columns
    int parent = kNone;  ///< node
    std::vector<int> children = {};
    std::vector<int> beneath = {};  ///< columns standing beneath this one, indices into design.columns
};

class Tree {
  public:
    Tree(Design& design, std::vector<Finding>* findings) : design_(design), findings_(findings) {
        nodes_.emplace_back();  // the root
        readTiers();
        readColumns();
    }

    int tierNode(std::string_view name) const {
        if (name.empty()) return 0;
        const auto found = tierNodes_.find(std::string(name));
        return found == tierNodes_.end() ? kNone : found->second;
    }
    int columnNode(std::string_view field) const {
        for (std::size_t i = 0; i < nodes_.size(); ++i)
            if (nodes_[i].column != kNone && columnOf(nodes_[i]).field == field) return static_cast<int>(i);
        return kNone;
    }
    Node& at(int node) { return nodes_[static_cast<std::size_t>(node)]; }
    const Node& at(int node) const { return nodes_[static_cast<std::size_t>(node)]; }
    const ColumnDesign& columnOf(const Node& node) const {
        return design_.columns[static_cast<std::size_t>(node.column)];
    }
    bool contains(int outer, int inner) const {
        for (int n = inner; n != kNone; n = at(n).parent)
            if (n == outer) return true;
        return false;
    }
    int depthOf(int node) const {
        int depth = 0;
        for (int n = at(node).parent; n > 0; n = at(n).parent) ++depth;
        return depth;
    }
    /// Tiers under a node, itself counted when it is one.
    int levelsOf(int node) const {
        int most = 0;
        for (const int child : at(node).children) most = std::max(most, levelsOf(child));
        return most + (at(node).tier != kNone ? 1 : 0);
    }

    void detach(int node) {
        if (const int parent = at(node).parent; parent != kNone) std::erase(at(parent).children, node);
        at(node).parent = kNone;
    }
    void insert(int node, int parent, std::size_t position) {
        auto& children = at(parent).children;
        children.insert(children.begin() + static_cast<std::ptrdiff_t>(std::min(position, children.size())), node);
        at(node).parent = parent;
    }
    std::size_t positionIn(int parent, int node) const {
        const auto& children = at(parent).children;
        return static_cast<std::size_t>(std::find(children.begin(), children.end(), node) - children.begin());
    }
    /// The position in `parent` before the child that holds `field`; its end when none does.
    std::size_t positionBefore(int parent, std::string_view field) const {
        int node = field.empty() ? kNone : nodeHolding(field);
        while (node != kNone && at(node).parent != parent) node = at(node).parent;
        return node == kNone ? at(parent).children.size() : positionIn(parent, node);
    }
    /// The node of a column, or of the one it stands beneath.
    int nodeHolding(std::string_view field) const {
        const ColumnDesign* column = design_.column(field);
        if (!column) return kNone;
        const int own = columnNode(field);
        return own != kNone ? own : columnNode(column->under);
    }
    /// Makes a column that stands beneath another one a node of its own, not yet in the tree.
    int release(std::string_view field) {
        if (const int own = columnNode(field); own != kNone) return own;
        const ColumnDesign* column = design_.column(field);
        if (!column) return kNone;
        const int index = static_cast<int>(column - design_.columns.data());
        for (Node& node : nodes_) std::erase(node.beneath, index);
        design_.columns[static_cast<std::size_t>(index)].under.clear();
        return newNode({.column = index});
    }
    int newNode(Node node) {
        nodes_.push_back(std::move(node));
        return static_cast<int>(nodes_.size()) - 1;
    }
    int newTier(TierDesign tier) {
        const std::string name = tier.name;
        design_.tiers.push_back(std::move(tier));
        const int node = newNode({.tier = static_cast<int>(design_.tiers.size()) - 1});
        tierNodes_[name] = node;
        return node;
    }

    enum class Empties { Keep, Drop };
    /// Writes the tree back into the design.
    void writeBack(Empties empties) {
        std::vector<ColumnDesign> columns;
        columns.reserve(design_.columns.size());
        std::set<int> kept;
        write(0, columns, kept);
        design_.columns = std::move(columns);
        std::vector<TierDesign> tiers;
        for (std::size_t i = 0; i < design_.tiers.size(); ++i)
            if (empties == Empties::Keep || kept.contains(static_cast<int>(i)))
                tiers.push_back(std::move(design_.tiers[i]));
        design_.tiers = std::move(tiers);
    }

  private:
    void note(Severity severity, std::string where, std::string message) {
        if (findings_) findings_->push_back({severity, std::move(where), std::move(message), {}, {}, {}});
    }

    void readTiers() {
        std::set<std::string> seen;
        std::erase_if(design_.tiers, [&](const TierDesign& tier) {
            if (!tier.name.empty() && seen.insert(tier.name).second) return false;
            note(Severity::Warning, "tiers/" + tier.name,
                 tier.name.empty() ? std::string("A tier without a name is left out: nothing could stand in it.")
                                   : fmt::format("The tier {} stands twice; the first is used.", tier.name));
            return true;
        });
        for (std::size_t i = 0; i < design_.tiers.size(); ++i)
            tierNodes_[design_.tiers[i].name] = newNode({.tier = static_cast<int>(i)});
        for (TierDesign& tier : design_.tiers) {
            if (tier.parent.empty() || tierNodes_.contains(tier.parent)) continue;
            note(Severity::Warning, "tiers/" + tier.name,
                 fmt::format("{} stands in a tier {} that there is not; it stands at the top now.", tier.name,
                             tier.parent));
            tier.parent.clear();
        }
        cutCirclesAndDepth();
    }

    /// Each tier's level, from the top down; one that would stand in itself, or too deep, is cut off there. O(tiers).
    void cutCirclesAndDepth() {
        const std::size_t count = design_.tiers.size();
        std::map<std::string_view, std::size_t> places;
        for (std::size_t i = 0; i < count; ++i) places.emplace(design_.tiers[i].name, i);
        std::vector<std::size_t> parents(count, count);  // count: none
        for (std::size_t i = 0; i < count; ++i)
            if (const auto found = places.find(design_.tiers[i].parent); found != places.end())
                parents[i] = found->second;
        const auto cut = [&](std::size_t i, const std::string& why) {
            note(Severity::Warning, "tiers/" + design_.tiers[i].name, why);
            design_.tiers[i].parent.clear();
            parents[i] = count;
        };
        std::vector<int> levels(count, 0);  // 0: not known yet
        for (std::size_t i = 0; i < count; ++i) {
            std::vector<std::size_t> path;
            std::set<std::size_t> onPath;
            std::size_t at = i;
            for (; at != count && levels[at] == 0 && onPath.insert(at).second; at = parents[at]) path.push_back(at);
            if (at != count && levels[at] == 0) {
                cut(at, fmt::format("{} stands in itself; it stands at the top now.", design_.tiers[at].name));
                --i;  // once more, without the circle
                continue;
            }
            int level = at == count ? 0 : levels[at];
            for (auto tier = path.rbegin(); tier != path.rend(); ++tier) {
                if (++level > TierDesign::kMostLevels) {
                    cut(*tier, fmt::format("{} is on level {}; at most {} are shown. It stands at the top now.",
                                           design_.tiers[*tier].name, level, TierDesign::kMostLevels));
                    level = 1;
                }
                levels[*tier] = level;
            }
        }
    }

    /// Hangs a tier into the tree the first time something stands in it, so that tiers stand where their columns do.
    int hung(const std::string& name) {
        const int node = tierNode(name);
        if (node <= 0 || at(node).parent != kNone) return node;
        const int parent = hung(design_.tiers[static_cast<std::size_t>(at(node).tier)].parent);
        insert(node, parent, at(parent).children.size());
        return node;
    }

    void readColumns() {
        std::map<std::string, std::size_t, std::less<>> places;
        for (std::size_t i = 0; i < design_.columns.size(); ++i) places.emplace(design_.columns[i].field, i);
        std::map<std::size_t, int> nodeOf;
        std::vector<std::size_t> order;
        for (std::size_t i = 0; i < design_.columns.size(); ++i) {
            ColumnDesign& column = design_.columns[i];
            if (!column.tier.empty() && !tierNodes_.contains(column.tier)) {
                note(Severity::Warning, "columns/" + column.field,
                     fmt::format("{} stands in a tier {} that there is not; it stands at the top now.", column.field,
                                 column.tier));
                column.tier.clear();
            }
            if (!column.under.empty()) {
                const auto anchor = places.find(column.under);
                if (anchor == places.end() || anchor->second == i || !design_.columns[anchor->second].under.empty()) {
                    note(Severity::Warning, "columns/" + column.field,
                         fmt::format("{} stands beneath {}, which is not a column on the first line; it has a place of "
                                     "its own now.",
                                     column.field, column.under));
                    column.under.clear();
                }
            }
        }
        for (std::size_t i = 0; i < design_.columns.size(); ++i) {
            if (!design_.columns[i].under.empty()) continue;
            const int node = newNode({.column = static_cast<int>(i)});
            nodeOf[i] = node;
            const int parent = hung(design_.columns[i].tier);
            insert(node, parent, at(parent).children.size());
        }
        for (std::size_t i = 0; i < design_.columns.size(); ++i)
            if (!design_.columns[i].under.empty()) {
                const std::size_t anchor = places.find(design_.columns[i].under)->second;
                at(nodeOf[anchor]).beneath.push_back(static_cast<int>(i));
                design_.columns[i].tier = design_.columns[anchor].tier;
            }
        noteTornTiers();
    }

    void noteTornTiers() {
        if (!findings_) return;
        std::set<std::string> closed;
        std::vector<std::string> open;
        for (const ColumnDesign& column : design_.columns) {
            const std::vector<std::string> path = tierPath(design_, column.tier);
            for (const std::string& tier : open)
                if (std::find(path.begin(), path.end(), tier) == path.end()) closed.insert(tier);
            for (const std::string& tier : path)
                if (closed.contains(tier)) {
                    note(Severity::Warning, "tiers/" + tier,
                         fmt::format("The columns of {} do not stand side by side; they were put together.", tier));
                    closed.erase(tier);
                }
            open = path;
        }
        for (const auto& [name, node] : tierNodes_)
            if (at(node).parent == kNone)
                findings_->push_back({Severity::Note,
                                      "tiers/" + name,
                                      fmt::format("No column stands in the tier {}; it is not shown.", name),
                                      {},
                                      Mending::RemoveTier,
                                      name});
    }

    void write(int node, std::vector<ColumnDesign>& columns, std::set<int>& kept) {
        for (const int child : at(node).children) {
            const Node& n = at(child);
            const std::string& tier =
                at(node).tier == kNone ? kTop : design_.tiers[static_cast<std::size_t>(at(node).tier)].name;
            if (n.tier != kNone) {
                design_.tiers[static_cast<std::size_t>(n.tier)].parent = tier;
                const std::size_t before = columns.size();
                write(child, columns, kept);
                if (columns.size() != before) kept.insert(n.tier);
                continue;
            }
            columns.push_back(design_.columns[static_cast<std::size_t>(n.column)]);
            columns.back().tier = tier;
            columns.back().under.clear();
            const std::string anchor = columns.back().field;
            for (const int index : n.beneath) {
                columns.push_back(design_.columns[static_cast<std::size_t>(index)]);
                columns.back().tier = tier;
                columns.back().under = anchor;
            }
        }
    }

    static inline const std::string kTop;
    Design& design_;
    std::vector<Finding>* findings_;
    std::vector<Node> nodes_;
    std::map<std::string, int> tierNodes_;
};

/// Tiers cut off the tree by their own cycle or never hung keep their settings; only operations drop them.
std::string freshName(const Design& design, std::string_view heading) {
    const std::string plain = heading.empty() ? std::string("Tier") : std::string(heading);
    std::string name = plain;
    for (int n = 2; design.findTier(name); ++n) name = fmt::format("{} {}", plain, n);
    return name;
}

}  // namespace

std::vector<Finding> settleTiers(Design& design) {
    std::vector<Finding> findings;
    Tree(design, &findings).writeBack(Tree::Empties::Keep);
    return findings;
}

std::vector<std::string> tierPath(const Design& design, std::string_view tier) {
    std::vector<std::string> path;
    for (const TierDesign* t = design.findTier(tier); t && path.size() <= design.tiers.size();
         t = design.findTier(t->parent))
        path.push_back(t->name);
    std::reverse(path.begin(), path.end());
    return path;
}

std::vector<std::string> fieldsUnder(const Design& design, std::string_view tier) {
    std::vector<std::string> fields;
    for (const ColumnDesign& column : design.columns) {
        const std::vector<std::string> path = tierPath(design, column.tier);
        if (std::find(path.begin(), path.end(), tier) != path.end()) fields.push_back(column.field);
    }
    return fields;
}

void moveColumns(Design& design, const std::vector<std::string>& fields, const Landing& to) {
    Tree tree(design, nullptr);
    const int parent = tree.tierNode(to.tier);
    if (parent == kNone) return;
    std::vector<int> nodes;
    for (const std::string& field : fields)
        if (const int node = tree.release(field);
            node != kNone && std::find(nodes.begin(), nodes.end(), node) == nodes.end())
            nodes.push_back(node);
    // The landing may be one of those that move: then what follows it.
    std::string before = to.before;
    if (std::find(fields.begin(), fields.end(), before) != fields.end()) {
        auto at = std::find_if(design.columns.begin(), design.columns.end(),
                               [&](const ColumnDesign& c) { return c.field == before; });
        while (at != design.columns.end() && std::find(fields.begin(), fields.end(), at->field) != fields.end()) ++at;
        before = at == design.columns.end() ? std::string() : at->field;
    }
    for (const int node : nodes) tree.detach(node);
    std::size_t position = tree.positionBefore(parent, before);
    if (parent != 0 && tree.at(parent).parent == kNone)  // a tier without columns till now: at the end of its own
        tree.insert(parent,
                    std::max(0, tree.tierNode(design.tiers[static_cast<std::size_t>(tree.at(parent).tier)].parent)),
                    design.columns.size());
    for (const int node : nodes) tree.insert(node, parent, position++);
    tree.writeBack(Tree::Empties::Drop);
}

void moveTier(Design& design, std::string_view name, const Landing& to) {
    Tree tree(design, nullptr);
    const int node = tree.tierNode(name), parent = tree.tierNode(to.tier);
    if (node <= 0 || parent == kNone || tree.contains(node, parent)) return;
    if (tree.depthOf(parent) + (parent == 0 ? 0 : 1) + tree.levelsOf(node) > TierDesign::kMostLevels) return;
    std::string before = to.before;
    if (const int holding = before.empty() ? kNone : tree.nodeHolding(before);
        holding != kNone && tree.contains(node, holding)) {
        // Before itself: what follows it.
        const auto own = fieldsUnder(design, name);
        auto at = std::find_if(design.columns.begin(), design.columns.end(),
                               [&](const ColumnDesign& c) { return c.field == own.back(); });
        ++at;
        before = at == design.columns.end() ? std::string() : at->field;
    }
    tree.detach(node);
    const std::size_t position = tree.positionBefore(parent, before);
    tree.insert(node, parent, position);
    tree.writeBack(Tree::Empties::Drop);
}

std::string makeTier(Design& design, const std::vector<std::string>& fields, std::string_view heading) {
    Tree tree(design, nullptr);
    // Where all columns of a tier are named, the tier goes in whole.
    std::vector<int> nodes;
    for (const std::string& field : fields) {
        int node = tree.nodeHolding(field);
        if (node == kNone) continue;
        for (int up = tree.at(node).parent; up > 0; up = tree.at(up).parent) {
            const auto all = fieldsUnder(design, design.tiers[static_cast<std::size_t>(tree.at(up).tier)].name);
            const bool whole = std::all_of(all.begin(), all.end(), [&](const std::string& f) {
                return std::find(fields.begin(), fields.end(), f) != fields.end() || !design.column(f)->under.empty();
            });
            if (!whole || all.size() <= 1) break;
            node = up;
        }
        if (std::find(nodes.begin(), nodes.end(), node) == nodes.end()) nodes.push_back(node);
    }
    std::erase_if(nodes, [&, all = nodes](int node) {  // what goes in with a tier goes once
        return std::any_of(all.begin(), all.end(),
                           [&](int other) { return other != node && tree.contains(other, node); });
    });
    if (nodes.empty()) return {};
    const int parent = tree.at(nodes.front()).parent;
    int levels = 0;
    for (const int node : nodes) levels = std::max(levels, tree.levelsOf(node));
    if (tree.depthOf(nodes.front()) + levels + 1 > TierDesign::kMostLevels) return {};
    TierDesign made;
    made.name = freshName(design, heading);
    made.heading = heading.empty() ? made.name : std::string(heading);
    const std::string name = made.name;
    const std::size_t position = tree.positionIn(parent, nodes.front());
    const int tier = tree.newTier(std::move(made));
    tree.insert(tier, parent, position);
    for (const int node : nodes) {
        tree.detach(node);
        tree.insert(node, tier, tree.at(tier).children.size());
    }
    tree.writeBack(Tree::Empties::Drop);
    return name;
}

void dissolveTier(Design& design, std::string_view name) {
    Tree tree(design, nullptr);
    const int node = tree.tierNode(name);
    if (node <= 0) return;
    const std::vector<int> children = tree.at(node).children;
    if (const int parent = tree.at(node).parent; parent != kNone) {
        std::size_t position = tree.positionIn(parent, node);
        for (const int child : children) {
            tree.detach(child);
            tree.insert(child, parent, position++);
        }
    }
    tree.detach(node);
    tree.writeBack(Tree::Empties::Drop);
    std::erase_if(design.tiers, [&](const TierDesign& t) { return t.name == name; });
}

void putUnder(Design& design, std::string_view field, std::string_view anchor) {
    ColumnDesign* column = design.column(field);
    if (!column || field == anchor) return;
    if (anchor.empty()) {
        if (column->under.empty()) return;
        const std::string tier = column->tier, above = column->under;
        auto at = std::find_if(design.columns.begin(), design.columns.end(),
                               [&](const ColumnDesign& c) { return c.field == above; });
        while (at != design.columns.end() && (at->field == above || at->under == above)) ++at;
        const Landing to{tier, at == design.columns.end() ? std::string() : at->field};
        const bool sameTier = at != design.columns.end() && [&] {
            const auto path = tierPath(design, at->tier);
            return tier.empty() || std::find(path.begin(), path.end(), tier) != path.end();
        }();
        return moveColumns(design, {std::string(field)}, sameTier ? to : Landing{tier, {}});
    }
    const ColumnDesign* top = design.column(anchor);
    if (!top) return;
    const std::string root = top->under.empty() ? top->field : top->under;
    if (root == field) return;
    const ColumnDesign moved = *column;
    // What stood beneath it goes along, beneath the same one.
    for (ColumnDesign& other : design.columns)
        if (other.under == moved.field) other.under = root;
    std::erase_if(design.columns, [&](const ColumnDesign& c) { return c.field == moved.field; });
    design.columns.push_back(moved);
    design.columns.back().under = root;
    Tree(design, nullptr).writeBack(Tree::Empties::Drop);
}

void renameTier(Design& design, std::string_view from, std::string_view to) {
    if (to.empty() || design.findTier(to)) return;
    for (TierDesign& tier : design.tiers) {
        if (tier.name == from) tier.name = to;
        if (tier.parent == from) tier.parent = to;
    }
    for (ColumnDesign& column : design.columns)
        if (column.tier == from) column.tier = to;
}

void removeColumns(Design& design, const std::vector<std::string>& fields) {
    std::erase_if(design.columns, [&](const ColumnDesign& column) {
        return std::find(fields.begin(), fields.end(), column.field) != fields.end();
    });
    Tree(design, nullptr).writeBack(Tree::Empties::Drop);
}

void showTier(Design& design, std::string_view name, bool shown) {
    for (const std::string& field : fieldsUnder(design, name)) design.column(field)->shown = shown;
}

TierEdit Design::tier(std::string_view name) {
    if (!findTier(name)) {
        TierDesign made;
        made.name = made.heading = name;
        tiers.push_back(std::move(made));
    }
    return {*this, std::string(name)};
}

TierEdit& TierEdit::add(const std::vector<std::string>& fields) {
    if (fieldsUnder(design_, name_).empty()) {
        // The first columns bring the tier to their place, if its parent has no other say.
        const TierDesign settings = tier();
        const ColumnDesign* first = nullptr;
        for (const std::string& field : fields)
            if (!first) first = design_.column(field);
        if (!first) return *this;
        std::erase_if(design_.tiers, [&](const TierDesign& t) { return t.name == name_; });
        const std::string made = makeTier(design_, fields, name_);
        if (TierDesign* fresh = design_.findTier(made)) {
            const std::string parent = fresh->parent;
            *fresh = settings;
            fresh->parent = parent;
            for (ColumnDesign& column : design_.columns)
                if (column.tier == made) column.tier = name_;
        } else {
            design_.tiers.push_back(settings);
        }
        return *this;
    }
    moveColumns(design_, fields, {name_, {}});
    return *this;
}

TierEdit& TierEdit::addTier(std::string_view tier) {
    if (!fieldsUnder(design_, name_).empty()) {
        moveTier(design_, tier, {name_, {}});
        return *this;
    }
    return add(fieldsUnder(design_, tier));
}

TierEdit& TierEdit::setHeading(std::string_view heading) { return tier().heading = heading, *this; }
TierEdit& TierEdit::setAlignment(Alignment alignment) { return tier().alignment = alignment, *this; }
TierEdit& TierEdit::setLook(TierLook look) { return tier().look = look, *this; }
TierEdit& TierEdit::setColour(std::string_view colour) { return tier().colour = colour, *this; }
TierEdit& TierEdit::setToolTip(std::string_view toolTip) { return tier().toolTip = toolTip, *this; }
TierEdit& TierEdit::setFolded(bool folded) { return tier().folded = folded, *this; }
TierEdit& TierEdit::setLead(std::string_view field) { return tier().lead = field, *this; }

}  // namespace jollyrow
