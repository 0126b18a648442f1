// SPDX-License-Identifier: MIT
// Editing the tree of a face by random steps, against a plain list of its leaves: nothing is lost or doubled, every
// tree can be shown, and a step that cannot be done changes nothing.
#include <QtTest>

#include <set>

#include <random>

#include "core/design/face_edit.h"

using namespace jollyrow;

namespace {

void addLeaves(const FacePart& part, std::vector<std::string>& leaves) {
    if (!holdsParts(part.kind)) leaves.push_back(part.text);
    for (const FacePart& child : part.parts) addLeaves(child, leaves);
}
std::vector<std::string> leavesOf(const FacePart& root) {
    std::vector<std::string> leaves;
    addLeaves(root, leaves);
    return leaves;
}
void addPaths(const FacePart& part, const FacePath& path, std::vector<FacePath>& paths) {
    paths.push_back(path);
    for (std::size_t i = 0; i < part.parts.size(); ++i) {
        FacePath inner = path;
        inner.push_back(i);
        addPaths(part.parts[i], inner, paths);
    }
}
bool isSound(const FacePart& part) {
    if (!part.unknown.empty()) return false;
    if (!holdsParts(part.kind)) return part.parts.empty();
    if (part.parts.size() < 2) return false;
    return std::all_of(part.parts.begin(), part.parts.end(), isSound);
}

}  // namespace

class FaceEditTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void randomEditsKeepEveryLeaf() {
        std::mt19937 random(17);
        for (int round = 0; round < 60; ++round) {
            FacePart root = face::text("0");
            int made = 1;
            for (int step = 0; step < 120; ++step) {
                std::vector<FacePath> paths;
                addPaths(root, {}, paths);
                const auto any = [&] { return paths[random() % paths.size()]; };
                const FaceLanding landing{any(), static_cast<FaceSide>(random() % 4)};
                std::vector<std::string> before = leavesOf(root);
                const FacePart was = root;
                const auto action = random() % 5;
                if (action < 2) {
                    const std::string text = std::to_string(made++);
                    const auto path = insertPart(root, face::text(text), landing);
                    if (!path) {
                        QVERIFY(root == was);
                        QVERIFY(partLevels(was) >= FacePart::kMostLevels - 1 || partCount(was) > 190);
                        continue;
                    }
                    QCOMPARE(partAt(root, *path)->text, text);
                    before.push_back(text);
                } else if (action < 4) {
                    const FacePath from = any();
                    const FacePart moved = *partAt(root, from);
                    const auto path = movePart(root, from, landing);
                    if (!path) {
                        QVERIFY(root == was);
                        continue;
                    }
                    QVERIFY(leavesOf(*partAt(root, *path)) == leavesOf(moved));
                } else {
                    const FacePath path = any();
                    const auto gone = leavesOf(*partAt(root, path));
                    const auto near = removePart(root, path);
                    QVERIFY(near && partAt(root, *near));
                    for (const std::string& leaf : gone) before.erase(std::find(before.begin(), before.end(), leaf));
                    if (before.empty()) before.push_back({});  // the column's own field
                }
                auto after = leavesOf(root);
                std::sort(after.begin(), after.end());
                std::sort(before.begin(), before.end());
                QCOMPARE(after, before);
                QVERIFY(isSound(root));
                QVERIFY(partCount(root) <= FacePart::kMostParts && partLevels(root) <= FacePart::kMostLevels);
            }
        }
    }

    void besideInTheSameRowNeedsNoRowOfItsOwn() {
        FacePart root = face::row({face::text("a"), face::text("b")});
        QCOMPARE(insertPart(root, face::text("c"), {{0}, FaceSide::After}), std::optional(FacePath{1}));
        QCOMPARE(leavesOf(root), (std::vector<std::string>{"a", "c", "b"}));
        QCOMPARE(insertPart(root, face::text("d"), {{2}, FaceSide::Below}), std::optional(FacePath{2, 1}));
        QVERIFY(root.parts[2].kind == FacePartKind::Column);
        QCOMPARE(movePart(root, {2, 1}, {{0}, FaceSide::Before}), std::optional(FacePath{0}));
        QCOMPARE(leavesOf(root), (std::vector<std::string>{"d", "a", "c", "b"}));
        QVERIFY(root.parts[3].kind == FacePartKind::Text);  // a column of one is none
        QVERIFY(!movePart(root, {}, {{0}, FaceSide::Before}));
        QVERIFY(!movePart(root, {1}, {{1}, FaceSide::Before}));
        FacePath path{0};
        QVERIFY(shiftPart(root, path, 1) && path == FacePath{1} && !shiftPart(root, path, 9));
    }

    /// A container with a condition of its own stays for it.
    void whatHasAConditionStays() {
        FacePart root = face::row({face::text("a"), face::column({face::text("b"), face::text("c")}).when("x > 1")});
        QVERIFY(removePart(root, {1, 0}));
        QCOMPARE(root.parts[1].shownWhen, std::string("x > 1"));
        QCOMPARE(root.parts[1].parts.size(), std::size_t{1});
        QVERIFY(removePart(root, {1, 0}));
        QVERIFY(root.kind == FacePartKind::Text);
    }

    void facesAreSharedUntilOneIsChanged() {
        Design d;
        for (const char* name : {"a", "b"}) {
            d.columns.emplace_back().field = name;
            d.columns.back().heading = "Amount";
        }
        giveFace(d, "a", face::bar());
        QCOMPARE(d.column("a")->face, std::string("Amount"));
        d.column("b")->face = "Amount";
        giveFace(d, "b", face::rating());  // used by two: it gets its own
        QCOMPARE(d.faces.size(), std::size_t{2});
        QCOMPARE(d.column("b")->face, std::string("Amount 2"));
        giveFace(d, "b", face::field());
        QCOMPARE(d.faces.size(), std::size_t{2});
        dropFace(d, "b");
        QCOMPARE(d.faces.size(), std::size_t{1});
        QVERIFY(d.findFace("Amount") && usersOf(d, "Amount") == 1);
        dropFace(d, "nobody");
    }

    /// Whatever is done with names and columns: each column has a face that is there or none, no face is without a
    /// column, no two have one name, and a tree that is composed is that of all that share it.
    void namesAndColumnsKeepTogether() {
        std::mt19937 random(31);
        Design design;
        for (const char* field : {"a", "b", "c", "d"}) {
            design.columns.emplace_back();
            design.columns.back().field = design.columns.back().heading = field;
        }
        const auto any = [&] { return design.columns[random() % 4].field; };
        for (int turn = 0; turn < 4000; ++turn) {
            const std::string field = any(), other = design.column(any())->face;
            const std::string was = design.column(field)->face;
            const FacePart tree = face::text(std::to_string(turn));
            switch (random() % 5) {
                case 0: {
                    const int users = usersOf(design, was);
                    composeFace(design, field, tree);
                    if (!was.empty()) QCOMPARE(usersOf(design, was), users);
                    break;
                }
                case 1: giveFace(design, field, tree); break;
                case 2: dropFace(design, field); break;
                case 3: QCOMPARE(shareFace(design, field, other), !other.empty()); break;
                case 4: {
                    const std::string to = random() % 3 ? "n" + std::to_string(random() % 5) : std::string();
                    const bool free = !to.empty() && (to == was || !design.findFace(to));
                    QCOMPARE(renameFace(design, was, to), free && !was.empty());
                    break;
                }
            }
            if (design.column(field)->face != was && !design.column(field)->face.empty())
                QVERIFY(design.findFace(design.column(field)->face));
            std::set<std::string> names;
            for (const FaceDesign& face : design.faces) {
                QVERIFY(names.insert(face.name).second);
                QVERIFY(usersOf(design, face.name) > 0);
            }
            for (const ColumnDesign& column : design.columns)
                QVERIFY(column.face.empty() || names.contains(column.face));
        }
    }

    void everyPartHasWords() {
        Design d;
        d.columns.emplace_back().field = "hours";
        d.columns.back().heading = "Hours";
        for (int kind = 0; kind < 13; ++kind) {
            FacePart part;
            part.kind = static_cast<FacePartKind>(kind);
            QVERIFY(!partWords(part, d, "hours").empty());
        }
        QCOMPARE(partWords(face::bar(), d, "hours"), std::string("bar of Hours"));
    }
};

QTEST_GUILESS_MAIN(FaceEditTest)
#include "face_edit_test.moc"
