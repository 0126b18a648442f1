// SPDX-License-Identifier: MIT
// Composing faces with real mouse and key events: a tile gives a ready face, parts are dropped into the enlarged cell,
// dragged about, moved by keys, set and taken out; each step is in the grid at once, is undone as one, and stays in the
// file.
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QToolButton>

#include "core/design/design_file.h"
#include "demo/boatyard.h"
#include "grid/api/grid.h"
#include "grid/paint/looks.h"
#include "grid/pictures/picture_shelf.h"
#include "tests/workbench/open_window.h"
#include "workbench/build/build_page.h"
#include "workbench/controls/segmented_switch.h"
#include "workbench/face/face_stage.h"
#include "workbench/face/hard_records.h"
#include "workbench/face/part_fittings.h"
#include "workbench/face/part_tiles.h"
#include "workbench/fittings/face_fittings.h"
#include "workbench/fittings/fittings.h"
#include "workbench/popovers/banners_popover.h"
#include "workbench/popovers/face_popover.h"
#include "workbench/popovers/looks_popover.h"
#include "workbench/popovers/styles_popover.h"

using namespace jollyrow;

class FacesWorkbenchTest : public QObject {
    Q_OBJECT
    QTemporaryDir folder_;
    QString database_, design_;
    std::unique_ptr<MainWindow> window_;

    BuildPage& build() { return window_->buildPage(); }
    Grid& grid() { return build().grid(); }
    const Design& design() { return window_->document().design(); }
    FacePopover& popover() { return *build().editors().face(); }
    FaceStage& stage() { return popover().stage(); }
    const FacePart& root(const char* field = "work") {
        static const FacePart none = face::text("no face");
        const FaceDesign* face = design().findFace(design().column(field)->face);
        return face ? face->root : none;
    }
    QString shown(const char* field = "work") { return grid().recordAt(0).text(field); }
    void openEditor(const char* field) {
        build().selectColumn(QString::fromLatin1(field));
        QTest::keyClick(window_.get(), Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
        QTRY_VERIFY(build().editors().face() && build().editors().face()->isVisible());
        QTRY_VERIFY(!stage().rectOf(popover().selected()).isEmpty() || popover().selected().empty());
    }
    /// A tile dragged with the mouse to a point of the stage.
    void dropTile(FacePartKind kind, QPoint at) {
        QWidget* tile = popover().tiles().tile(kind);
        const QPoint from = tile->rect().center(), to = tile->mapFromGlobal(stage().mapToGlobal(at));
        QTest::mousePress(tile, Qt::LeftButton, {}, from);
        for (int step = 1; step <= 6; ++step) QTest::mouseMove(tile, from + (to - from) * step / 6);
        QTest::mouseRelease(tile, Qt::LeftButton, {}, to);
    }
    template <class Widget>
    Widget* setting(const QString& name) {
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        for (Widget* widget : popover().fittings().findChildren<Widget*>())
            if (widget->accessibleName() == name && widget->isVisibleTo(&popover())) return widget;
        return nullptr;
    }

    template <class Popover>
    Popover* openedBy(const char* words) {
        build().selectColumn(std::nullopt);
        for (QPushButton* button : build().fittings().findChildren<QPushButton*>())
            if (button->text() == QString::fromUtf8(words)) button->click();
        return window_->findChild<Popover*>();
    }
    template <class Widget>
    Widget* named(QWidget* in, const char* name) {
        for (Widget* widget : in->findChildren<Widget*>())
            if (widget->accessibleName() == QString::fromUtf8(name) && widget->isVisible()) return widget;
        return nullptr;
    }

  private Q_SLOTS:
    void initTestCase() {
        test::prepareWorkbench();
        database_ = folder_.filePath("kelpie-quay.db");
        design_ = folder_.filePath("yard-jobs.jrow");
        demo::BoatyardSize size;
        size.jobs = 600;
        QVERIFY(demo::makeBoatyard(database_.toStdString(), size, {}).ok());
    }
    void init() {
        QVERIFY(writeDesignFile(design_.toStdString(), demo::yardJobsDesign("kelpie-quay.db")).ok());
        window_ = test::shownWindow();
        QVERIFY(window_);
        window_->activateWindow();
        window_->openPath(design_);
        QTRY_VERIFY(grid().snapshot() && grid().snapshot()->table->complete && !grid().isLoading());
    }
    void cleanup() { window_.reset(); }

    void aTileGivesAReadyFace() {
        build().selectColumn(QString("hours"));
        auto* faces = window_->findChild<FaceFittings*>();
        QTRY_VERIFY(faces->tile("Bar"));
        QTest::mouseClick(faces->tile("Bar"), Qt::LeftButton, {}, {20, 10});
        QTRY_VERIFY(root("hours").kind == FacePartKind::Bar);
        QTRY_VERIFY(!grid().snapshot()->extents.empty());
        // By keys: the next tile is Progress.
        QTRY_VERIFY(faces->tile("Progress"));
        faces->tile("Progress")->setFocus();
        QTest::keyClick(faces->tile("Progress"), Qt::Key_Space);
        QTRY_VERIFY(root("hours").bar.ends == BarEnds::Fixed);
        QCOMPARE(design().faces.size(), std::size_t{1});
        window_->document().undo();
        QTRY_VERIFY(root("hours").bar.ends == BarEnds::Data);
        window_->document().undo();
        QTRY_VERIFY(design().column("hours")->face.empty() && design().faces.empty());
        // Another column can use the same one.
        window_->document().redo();
        build().selectColumn(QString("parts"));
        QTRY_VERIFY(faces->tile("Hours"));
        QTest::mouseClick(faces->tile("Hours"), Qt::LeftButton, {}, {20, 10});
        QTRY_COMPARE(design().column("parts")->face, std::string("Hours"));
        QTRY_VERIFY(faces->tile("By type"));
        QTest::mouseClick(faces->tile("By type"), Qt::LeftButton, {}, {20, 10});
        QTRY_VERIFY(design().column("parts")->face.empty());
        QCOMPARE(design().faces.size(), std::size_t{1});
    }

    void lookUpsAndKeysAreOfferedNoBars() {
        build().selectColumn(QString("vessel"));
        auto* faces = window_->findChild<FaceFittings*>();
        QTRY_VERIFY(faces->tile("Link"));
        QVERIFY(!faces->tile("Bar") && !faces->tile("Rating"));
        build().selectColumn(QString("status"));
        QTRY_VERIFY(faces->tile("Marked"));
        QTest::mouseClick(faces->tile("Marked"), Qt::LeftButton, {}, {20, 10});
        QTRY_VERIFY(root("status").kind == FacePartKind::Row);
        QVERIFY(root("status").parts[0].rules.size() >= 3);
    }

    void aFaceIsComposedByMouse() {
        openEditor("work");
        QCOMPARE(shown(), grid().recordAt(0).text("work"));
        const QString work = shown();
        // Below the only part: two lines.
        const QRect whole = stage().rectOf({});
        QVERIFY(!whole.isEmpty());
        dropTile(FacePartKind::Text, {whole.center().x(), whole.bottom() - 2});
        QTRY_VERIFY(root().kind == FacePartKind::Column);
        QCOMPARE(root().parts.size(), std::size_t{2});
        QCOMPARE(popover().selected(), FacePath{1});
        auto* says = setting<QLineEdit>("Says");
        QVERIFY(says);
        says->selectAll();
        QTest::keyClicks(says, "for {vessel.owner.name}");
        QTRY_COMPARE(root().parts[1].text, std::string("for {vessel.owner.name}"));
        QTRY_VERIFY(grid().snapshot()->table->schema.find("vessel.owner.name"));
        QTRY_VERIFY(shown().startsWith(work + " for ") && shown().size() > work.size() + 6);
        // Typed letters are one step.
        QVERIFY(window_->document().undoLabel().contains("Text"));
        // A mark before the first line, by its left edge.
        const QRect first = stage().rectOf({0});
        dropTile(FacePartKind::Mark, {first.left() + 2, first.center().y()});
        QTRY_VERIFY(root().parts[0].kind == FacePartKind::Row);
        QVERIFY(root().parts[0].parts[0].kind == FacePartKind::Mark);
        // Dragged behind the text.
        QTRY_VERIFY(!stage().rectOf({0, 0}).isEmpty());
        const QPoint from = stage().rectOf({0, 0}).center(), to(stage().rectOf({0, 1}).right() - 3, from.y());
        QTest::mousePress(&stage(), Qt::LeftButton, {}, from);
        for (int step = 1; step <= 6; ++step) QTest::mouseMove(&stage(), from + (to - from) * step / 6);
        QVERIFY(stage().landing());
        QTest::mouseRelease(&stage(), Qt::LeftButton, {}, to);
        QTRY_VERIFY(root().parts[0].parts[1].kind == FacePartKind::Mark);
        // Each step back, one by one, to the type's own face.
        for (int step = 0; step < 4; ++step) window_->document().undo();
        QTRY_VERIFY(design().faces.empty() && design().column("work")->face.empty());
        QTRY_COMPARE(shown(), work);
        for (int step = 0; step < 4; ++step) window_->document().redo();
        QVERIFY(root().parts[0].parts[1].kind == FacePartKind::Mark);
        // Kept and opened again equal.
        QVERIFY(window_->document().save(design_).ok());
        const Design kept = design();
        QCOMPARE(readDesignFile(design_.toStdString())->design.faces, kept.faces);
    }

    void aFaceIsComposedByKeys() {
        openEditor("work");
        stage().setFocus();
        QWidget* tile = popover().tiles().tile(FacePartKind::Button);
        tile->setFocus();
        QTest::keyClick(tile, Qt::Key_Space);
        QTRY_VERIFY(root().kind == FacePartKind::Row);
        QCOMPARE(popover().selected(), FacePath{1});
        stage().setFocus();
        QTest::keyClick(&stage(), Qt::Key_Left, Qt::AltModifier);
        QTRY_VERIFY(root().parts[0].kind == FacePartKind::Button);
        QCOMPARE(popover().selected(), FacePath{0});
        QTest::keyClick(&stage(), Qt::Key_Right);
        QCOMPARE(popover().selected(), FacePath{1});
        QTest::keyClick(&stage(), Qt::Key_Up);
        QCOMPARE(popover().selected(), FacePath{});
        QTest::keyClick(&stage(), Qt::Key_Down);
        QCOMPARE(popover().selected(), FacePath{0});
        QTest::keyClick(&stage(), Qt::Key_Delete);
        QTRY_VERIFY(root().kind == FacePartKind::Field);
        QTest::keyClick(&stage(), Qt::Key_Escape);
        QTRY_VERIFY(!build().editors().face() || !build().editors().face()->isVisible());
    }

    void anEscapedDragChangesNothing() {
        openEditor("work");
        dropTile(FacePartKind::Mark, {stage().rectOf({}).right() - 4, stage().rectOf({}).center().y()});
        QTRY_VERIFY(root().kind == FacePartKind::Row);
        const FacePart before = root();
        const QPoint from = stage().rectOf({0}).center();
        QTest::mousePress(&stage(), Qt::LeftButton, {}, from);
        for (int step = 1; step <= 5; ++step) QTest::mouseMove(&stage(), from + QPoint(20 * step, 0));
        QTest::keyClick(&stage(), Qt::Key_Escape);
        QTest::mouseRelease(&stage(), Qt::LeftButton, {}, from + QPoint(100, 0));
        QVERIFY(root() == before);
        QVERIFY(build().editors().face()->isVisible());
        // A tile let go beside the stage does nothing either.
        dropTile(FacePartKind::Bar, {-200, 400});
        QVERIFY(root() == before);
    }

    void settingsAreTaken() {
        openEditor("hours");
        popover().tiles().tile(FacePartKind::Bar)->click();
        QTRY_VERIFY(root("hours").kind == FacePartKind::Row);
        const auto bar = [this] { return root("hours").parts.back(); };
        auto* more = setting<QComboBox>("Stack another field");
        QVERIFY(more);
        const int at = more->findData("parts");
        QVERIFY(at > 0);
        more->setCurrentIndex(at);
        Q_EMIT more->activated(at);
        QTRY_COMPARE(bar().bar.fields, (std::vector<std::string>{"hours", "parts"}));
        // A condition is taken once it is sound.
        auto* condition = setting<QPlainTextEdit>("Shown when");
        QVERIFY(condition);
        condition->setFocus();
        QTest::keyClicks(condition, "status <> 'Done'");
        QTRY_COMPARE(bar().shownWhen, std::string("status <> 'Done'"));
        QTest::keyClicks(condition, " AND");
        QTest::qWait(20);
        QCOMPARE(bar().shownWhen, std::string("status <> 'Done'"));
        QVERIFY(grid().findings().empty());
    }

    void aMarkGetsRules() {
        openEditor("status");
        popover().tiles().tile(FacePartKind::Mark)->click();
        QTRY_VERIFY(root("status").kind == FacePartKind::Row);
        const auto mark = [this] { return root("status").parts.back(); };
        auto* where = setting<QPlainTextEdit>("Holds when 1");
        QVERIFY(where);
        where->selectAll();
        QTest::keyClicks(where, "value = 'Done'");
        QTRY_COMPARE(mark().rules[0].where, std::string("value = 'Done'"));
        auto* shape = setting<QComboBox>("Shape 1");
        shape->setCurrentIndex(static_cast<int>(MarkShape::Clock));
        Q_EMIT shape->activated(static_cast<int>(MarkShape::Clock));
        QTRY_VERIFY(mark().rules[0].shape == MarkShape::Clock);
        auto* words = setting<QLineEdit>("Words 1");
        QTest::keyClicks(words, "finished");
        QTRY_COMPARE(mark().rules[0].words, std::string("finished"));
        QTRY_VERIFY(grid().recordAt(0).text("status").contains("finished") ==
                    grid().recordAt(0).text("status").contains("Done"));
    }

    void hardRecordsAreShownAndWiden() {
        build().grid().changeDesign([](Design& d) {
            d.column("work")->width.mode = WidthMode::Fixed;
            d.column("work")->width.pixels = 60;
        });
        openEditor("work");
        QTRY_VERIFY(popover().hard().cut() > 0);
        const int needed = popover().hard().widest();
        QVERIFY(needed > 60);
        for (QPushButton* button : popover().findChildren<QPushButton*>())
            if (button->text().startsWith("Widen")) QTest::mouseClick(button, Qt::LeftButton);
        QTRY_COMPARE(design().column("work")->width.pixels, needed);
        QTRY_COMPARE(popover().hard().cut(), 0);
        // A click shows that record on the stage; another process may write meanwhile.
        QVERIFY(!popover().hard().entries().empty());
        QTest::mouseClick(&popover().hard(), Qt::LeftButton, {}, popover().hard().cellRect(0).center());
        grid().reload();
        QTRY_VERIFY(!grid().isLoading());
        QVERIFY(build().editors().face()->isVisible());
    }

    void byTypeAgainTakesTheFaceAway() {
        openEditor("work");
        popover().tiles().tile(FacePartKind::Text)->click();
        QTRY_VERIFY(!design().faces.empty());
        for (QPushButton* button : popover().findChildren<QPushButton*>())
            if (button->text() == "By type again") QTest::mouseClick(button, Qt::LeftButton);
        QTRY_VERIFY(design().faces.empty());
        QVERIFY(!build().editors().face() || !build().editors().face()->isVisible());
    }

    void stylesAreSetByRules() {
        build().selectColumn(std::nullopt);
        for (QPushButton* button : build().fittings().findChildren<QPushButton*>())
            if (button->text() == QString("Styles…")) button->click();
        auto* styles = window_->findChild<StylesPopover*>();
        QTRY_VERIFY(styles && styles->isVisible());
        const auto control = [&](const char* name) -> QWidget* {
            for (QWidget* widget : styles->findChildren<QWidget*>())
                if (widget->accessibleName() == QString::fromUtf8(name) && widget->isVisible()) return widget;
            return nullptr;
        };
        QTest::mouseClick(styles->findChild<QPushButton*>("addStyle"), Qt::LeftButton);
        QTRY_COMPARE(design().styles.size(), std::size_t{1});
        QTRY_VERIFY(control("Where style 1 holds"));
        auto* where = qobject_cast<QPlainTextEdit*>(control("Where style 1 holds"));
        where->selectAll();
        QTest::keyClicks(where, "hours > 20");
        QTRY_COMPARE(design().styles[0].where, std::string("hours > 20"));
        QVERIFY(grid().findings().empty());
        auto* on = qobject_cast<QComboBox*>(control("On what style 1 is"));
        const int at = on->findData("hours");
        QVERIFY(at > 0);
        on->setCurrentIndex(at);
        Q_EMIT on->activated(at);
        QTRY_COMPARE(design().styles[0].columns, std::vector<std::string>{"hours"});
        QTRY_VERIFY(control("Background"));
        auto* behind = qobject_cast<QComboBox*>(control("Background"));
        QVERIFY(behind->currentText() == QString("brass"));
        behind->setCurrentIndex(behind->findData("teal"));
        Q_EMIT behind->activated(behind->currentIndex());
        QTRY_COMPARE(design().styles[0].background, std::string("teal"));
        // Undone outside, the card follows.
        window_->document().undo();
        QTRY_COMPARE(design().styles[0].background, std::string("brass"));
        QTRY_VERIFY(control("Background") && qobject_cast<QComboBox*>(control("Background"))->currentText() == "brass");
        QTest::mouseClick(control("Take style 1 away"), Qt::LeftButton);
        QTRY_VERIFY(design().styles.empty());
        window_->document().undo();
        QTRY_COMPARE(design().styles.size(), std::size_t{1});
    }

    /// Renamed, shared and taken apart in the editor; a shared face is changed for all that have it.
    void facesHaveNamesAndAreShared() {
        build().editors().openFace("work");
        auto* editor = build().editors().face();
        QTRY_VERIFY(editor && editor->isVisible());
        auto* name = named<QLineEdit>(editor, "Name of the face");
        QVERIFY(name && !name->isEnabled());  // by its type as yet
        Design with = design();
        giveFace(with, "work", face::row({face::field(), face::text("!")}));
        window_->document().apply(with, "face");
        QTRY_VERIFY(name->isEnabled());
        name->selectAll();
        QTest::keyClicks(name, "What is done");
        QTest::keyClick(name, Qt::Key_Return);
        QTRY_COMPARE(design().column("work")->face, std::string("What is done"));
        auto* share = named<QComboBox>(editor, "Columns that have the face, too");
        const int at = share->findData("status");
        QVERIFY(at > 0);
        share->setCurrentIndex(at);
        Q_EMIT share->activated(at);
        QTRY_COMPARE(design().column("status")->face, std::string("What is done"));
        // Changed here, it is changed there.
        editor->select({1});
        auto* says = named<QLineEdit>(editor, "Says");
        QTRY_VERIFY(named<QLineEdit>(editor, "Says"));
        says = named<QLineEdit>(editor, "Says");
        QTest::keyClicks(says, "!");
        QTRY_COMPARE(design().faces.size(), std::size_t{1});
        QTRY_COMPARE(design().faces[0].root.parts[1].text, std::string("!!"));
        for (QPushButton* button : editor->findChildren<QPushButton*>())
            if (button->text() == QString("One of its own")) QTest::mouseClick(button, Qt::LeftButton);
        QTRY_COMPARE(design().faces.size(), std::size_t{2});
        QVERIFY(design().column("work")->face != design().column("status")->face);
        window_->document().undo();
        QTRY_COMPARE(design().faces.size(), std::size_t{1});
    }

    /// What links open is set at the link and allowed for the grid; a format and lines belong to a part.
    void linksFormatsAndLines() {
        Design with = design();
        giveFace(with, "hours", face::row({face::field(), face::link("call", "call"), face::trend("notes")}));
        window_->document().apply(with, "face");
        build().editors().openFace("hours");
        auto* editor = build().editors().face();
        QTRY_VERIFY(editor && editor->isVisible());
        const auto pick = [&](const char* name, int index) {
            QTRY_VERIFY(named<QComboBox>(editor, name));
            auto* box = named<QComboBox>(editor, name);
            box->setCurrentIndex(index);
            Q_EMIT box->activated(index);
        };
        const auto part = [&](std::size_t i) { return design().faces[0].root.parts[i]; };
        editor->select({0});
        pick("Kind of format", 2);
        QTRY_VERIFY(part(0).format.style == FormatStyle::Duration);
        QTRY_VERIFY(named<QComboBox>(editor, "What one stands for"));
        pick("What one stands for", 1);
        QTRY_VERIFY(part(0).format.unit == DurationUnit::Minutes);
        auto* lines = named<QSpinBox>(editor, "Lines of text");
        QVERIFY(lines);
        lines->setValue(3);
        QTRY_COMPARE(part(0).lines, 3);
        editor->select({1});
        QTRY_VERIFY(named<QLineEdit>(editor, "Opens"));
        QTest::keyClicks(named<QLineEdit>(editor, "Opens"), "mailto:yard@kelpie-quay.example");
        QTRY_COMPARE(part(1).opens, std::string("mailto:yard@kelpie-quay.example"));
        editor->select({2});
        QTRY_VERIFY(named<QSpinBox>(editor, "How many of the last numbers"));
        named<QSpinBox>(editor, "How many of the last numbers")->setValue(5);
        QTRY_COMPARE(part(2).trend.last, 5);
        for (QCheckBox* box : editor->findChildren<QCheckBox*>())
            if (box->text() == QString("band behind") && box->isVisible())
                QTest::mouseClick(box, Qt::LeftButton, {}, {6, box->height() / 2});
        QTRY_VERIFY(part(2).trend.band);
        QTRY_VERIFY(named<QDoubleSpinBox>(editor, "Band to"));
        named<QDoubleSpinBox>(editor, "Band to")->setValue(12);
        QTRY_COMPARE(part(2).trend.to, 12.0);
        editor->close();
        build().selectColumn(std::nullopt);
        auto* schemes = named<QLineEdit>(&build().fittings(), "Links may open");
        QVERIFY(schemes);
        schemes->setFocus();
        QTest::keyClicks(schemes, "https, file, mailto");
        QTRY_COMPARE(design().grid.linkSchemes, (std::vector<std::string>{"https", "mailto"}));
        QVERIFY(writeDesignFile(design_.toStdString(), design()).ok());
        const auto read = readDesignFile(design_.toStdString());
        QVERIFY(read->findings.empty() && read->design.faces == design().faces && read->design.grid == design().grid);
    }

    void readyFacesForLongTextsAndDurations() {
        build().selectColumn(QString("work"));
        auto* tiles = build().fittings().findChild<FaceFittings*>();
        QTRY_VERIFY(tiles->tile("Long text"));
        QTest::mouseClick(tiles->tile("Long text"), Qt::LeftButton);
        QTRY_VERIFY(design().column("work")->wrap && design().column("status")->face.empty());
        QTRY_VERIFY(tiles->tile("By type"));
        QTest::mouseClick(tiles->tile("By type"), Qt::LeftButton);
        QTRY_VERIFY(!design().column("work")->wrap);
        build().selectColumn(QString("hours"));
        QTRY_VERIFY(tiles->tile("Duration"));
        QTest::mouseClick(tiles->tile("Duration"), Qt::LeftButton);
        QTRY_VERIFY(!design().column("hours")->face.empty());
        QTRY_VERIFY(shown("hours").contains(':'));
        window_->document().undo();
        QTRY_VERIFY(design().column("hours")->face.empty());
    }

    /// Icons, italic and a scale with a middle, on records; then on the lines of groups, by a rule of aggregates.
    void stylesHaveIconsAndLinesOfGroups() {
        Design next = design();
        next.styles.resize(1);
        next.styles[0].name = "Long";
        next.styles[0].columns = {"hours"};
        window_->document().apply(next, "styles");
        auto* styles = openedBy<StylesPopover>("Styles…");
        QTRY_VERIFY(styles && styles->isVisible());
        const auto pick = [&](const char* name, const QString& words) {
            QTRY_VERIFY(named<QComboBox>(styles, name));
            auto* box = named<QComboBox>(styles, name);
            QVERIFY2(box->findText(words) >= 0, qPrintable(words));
            box->setCurrentIndex(box->findText(words));
            Q_EMIT box->activated(box->currentIndex());
        };
        const auto tick = [&](const QString& words) {
            for (QCheckBox* box : styles->findChildren<QCheckBox*>())
                if (box->text() == words && box->isVisible())
                    return QTest::mouseClick(box, Qt::LeftButton, {}, {6, box->height() / 2});
            QFAIL(qPrintable(words));
        };
        pick("Icon of style 1", "diamond");
        QTRY_VERIFY(design().styles[0].icons.size() == 1 && design().styles[0].icons[0].shape == MarkShape::Diamond);
        tick("italic");
        QTRY_VERIFY(design().styles[0].italic);
        tick("scale");
        QTRY_COMPARE(design().styles[0].lowest, std::string("blue"));
        pick("Colour in the middle; as it is: mixed of the ends", "quiet");
        QTRY_COMPARE(design().styles[0].middle, std::string("quiet"));
        pick("Icon of style 1", "ring, half, disc by value");
        QTRY_COMPARE(design().styles[0].icons.size(), std::size_t{3});
        pick("Lines that style 1 is for", "of group lines");
        QTRY_VERIFY(design().styles[0].lines == StyledLines::Groups);
        QVERIFY(grid().findings().empty());
        Design grouped = design();
        grouped.groups.resize(1);
        grouped.groups[0].key.field = "status";
        window_->document().apply(grouped, "group");
        QTRY_VERIFY(grid().snapshot()->grouped);
        const auto entry = [&] { return named<QPlainTextEdit>(styles, "Where style 1 holds"); };
        QTRY_VERIFY(entry() && entry()->placeholderText().contains("SUM"));  // the card of another kind of line
        auto* where = entry();
        where->selectAll();
        QTest::keyClicks(where, "SUM(hours) > 1");
        QTRY_COMPARE(QString::fromStdString(design().styles[0].where), QString("SUM(hours) > 1"));
        QVERIFY(grid().findings().empty());
        where->selectAll();
        QTest::keyClicks(where, "SUM(hours) + 1");
        // No condition: said, and the last one that was stays.
        const auto says = [&](const QString& words) {
            const auto labels = styles->findChildren<QLabel*>();
            return std::any_of(labels.begin(), labels.end(), [&](QLabel* l) { return l->text().contains(words); });
        };
        QTRY_VERIFY(says("not yes or no"));
        QCOMPARE(design().styles[0].where, std::string("SUM(hours) > 1"));
        pick("Lines that style 1 is for", "of totals");
        QTRY_VERIFY(design().styles[0].lowest.empty() && design().styles[0].icons.empty());
        // In the file, opened equal, and undone step by step.
        QVERIFY(writeDesignFile(design_.toStdString(), design()).ok());
        QVERIFY(readDesignFile(design_.toStdString())->design.styles == design().styles);
        window_->document().undo();
        QTRY_COMPARE(design().styles[0].icons.size(), std::size_t{3});
    }

    /// However many cards there are, each can be reached and none is drawn over another.
    void manyCardsAreScrolled() {
        Design next = design();
        for (int i = 0; i < 12; ++i) {
            StyleDesign& style = next.styles.emplace_back();
            style.name = "Style " + std::to_string(i);
            style.where = "hours > " + std::to_string(i);
        }
        window_->document().apply(next, "styles");
        auto* styles = openedBy<StylesPopover>("Styles…");
        QTRY_VERIFY(styles && styles->isVisible());
        QTRY_VERIFY(named<QLineEdit>(styles, "Name of style 12"));
        QVERIFY(styles->geometry().bottom() <= window_->height());
        QList<QWidget*> entries;
        for (int i = 1; i <= 12; ++i) {
            entries << named<QLineEdit>(styles, qPrintable(QString("Name of style %1").arg(i)));
            entries << named<QPlainTextEdit>(styles, qPrintable(QString("Where style %1 holds").arg(i)));
        }
        const auto on = [&](QWidget* w) { return QRect(w->mapTo(styles, QPoint()), w->size()); };
        for (qsizetype i = 0; i < entries.size(); ++i)
            for (qsizetype k = i + 1; k < entries.size(); ++k) QVERIFY(!on(entries[i]).intersects(on(entries[k])));
        for (QWidget* entry : entries) QVERIFY(entry->height() >= entry->minimumHeight() && entry->height() >= 20);
        auto* area = styles->findChild<QScrollArea*>();
        area->verticalScrollBar()->setValue(area->verticalScrollBar()->maximum());
        QVERIFY(styles->rect().contains(on(entries.back())));
        const int at = area->verticalScrollBar()->value();
        QVERIFY(at > 0);
        // What is changed down there is changed in sight.
        QTest::mouseClick(named<QToolButton>(styles, "Take style 12 away"), Qt::LeftButton);
        QTRY_COMPARE(design().styles.size(), next.styles.size() - 1);
        QTRY_VERIFY(styles->findChild<QScrollArea*>()->verticalScrollBar()->value() > at / 2);
    }

    void bannersAreSetByRules() {
        auto* banners = openedBy<BannersPopover>("Banner rows…");
        QTRY_VERIFY(banners && banners->isVisible());
        QTest::mouseClick(banners->findChild<QPushButton*>("addBanner"), Qt::LeftButton);
        QTRY_COMPARE(design().banners.size(), std::size_t{1});
        QTRY_VERIFY(named<QPlainTextEdit>(banners, "Where banner 1 holds"));
        auto* where = named<QPlainTextEdit>(banners, "Where banner 1 holds");
        where->selectAll();
        QTest::keyClicks(where, "status = 'Quoted'");
        QTRY_COMPARE(design().banners[0].where, std::string("status = 'Quoted'"));
        QTest::keyClicks(named<QLineEdit>(banners, "What banner 1 says"), "{work} of {vessel}");
        QTRY_COMPARE(design().banners[0].caption, std::string("{work} of {vessel}"));
        QVERIFY(grid().findings().empty());
        QTRY_VERIFY(!grid().snapshot()->banners.empty() && grid().snapshot()->banners[0].set->count > 0);
        for (QCheckBox* box : banners->findChildren<QCheckBox*>())
            if (box->text() == QString("heads the records behind it"))
                QTest::mouseClick(box, Qt::LeftButton, {}, {6, box->height() / 2});
        QTRY_VERIFY(design().banners[0].heads);
        // In the file, and opened equal.
        QVERIFY(writeDesignFile(design_.toStdString(), design()).ok());
        QVERIFY(readDesignFile(design_.toStdString())->design.banners == design().banners);
        window_->document().undo();
        QTRY_VERIFY(!design().banners[0].heads);
        QTest::mouseClick(named<QToolButton>(banners, "Take banner 1 away"), Qt::LeftButton);
        QTRY_VERIFY(design().banners.empty());
        window_->document().undo();
        QTRY_COMPARE(design().banners.size(), std::size_t{1});
    }

    void aLookIsChosenMadeAndKept() {
        auto* looks = openedBy<LooksPopover>("Look…");
        QTRY_VERIFY(looks && looks->isVisible());
        const QColor before = grid().look().teal;
        QTest::mouseClick(named<QToolButton>(looks, "Chart"), Qt::LeftButton);
        QTRY_COMPARE(design().grid.look, std::string("chart"));
        QTRY_VERIFY(grid().look().teal != before);
        QVERIFY(!looks->setColour("teal", "#123456"));  // a ready one stays as it is
        QTest::mouseClick(looks->findChild<QPushButton*>("makeLook"), Qt::LeftButton);
        QTRY_COMPARE(design().looks.size(), std::size_t{1});
        QCOMPARE(design().looks[0].base, std::string("chart"));
        QTRY_VERIFY(looks->findChild<QPushButton*>("teal"));
        QVERIFY(looks->setColour("teal", "#123456"));
        QVERIFY(!looks->setColour("teal", "blue-ish"));
        QTRY_COMPARE(grid().look().teal, QColor("#123456"));
        window_->document().undo();
        QTRY_VERIFY(grid().look().teal != QColor("#123456"));
        window_->document().redo();
        QTRY_COMPARE(grid().look().teal, QColor("#123456"));
        // Out to a file and in again, under its name.
        const QString file = folder_.filePath("own.jlook");
        QVERIFY(looks->saveTo(file));
        QVERIFY(looks->setColour("teal", "#654321"));
        QTRY_COMPARE(grid().look().teal, QColor("#654321"));
        QVERIFY(looks->loadFrom(file));
        QTRY_COMPARE(grid().look().teal, QColor("#123456"));
        QCOMPARE(design().looks.size(), std::size_t{1});
        QVERIFY(!looks->loadFrom(database_));
        QVERIFY(!looks->saveTo(folder_.filePath("no/such/own.jlook")));
        // Text on ever the same colour: it is said that it had to be changed.
        QVERIFY(looks->setColour("ink", design().looks[0].light.count("paper") ? "#ffffff" : "#fefefe"));
        const auto says = [looks](const char* word) {
            for (const QLabel* label : looks->findChildren<QLabel*>())
                if (label->text().contains(QString::fromUtf8(word))) return true;
            return false;
        };
        QTRY_VERIFY(says("legible: ink"));
        QTest::mouseClick(named<QToolButton>(looks, "Take the look away"), Qt::LeftButton);
        QTRY_VERIFY(design().looks.empty() && design().grid.look.empty());
        QTRY_COMPARE(grid().look().teal, before);
    }

    void aPictureIsPutIntoACell() {
        openEditor("vessel");
        popover().tiles().tile(FacePartKind::Picture)->click();
        QTRY_VERIFY(!design().faces.empty());
        auto* field = setting<QComboBox>("Field");
        QVERIFY(field);
        const int at = field->findData("vessel.picture");
        QVERIFY(at > 0);
        field->setCurrentIndex(at);
        Q_EMIT field->activated(at);
        QTRY_VERIFY(grid().session().schema().find("vessel.picture") && !grid().isLoading());
        QTRY_VERIFY(grid().pictures().held() > 0);
        QVERIFY(grid().findings().empty());
        SegmentedSwitch* fit = nullptr;
        for (SegmentedSwitch* one : popover().fittings().findChildren<SegmentedSwitch*>())
            if (!fit && one->isVisible()) fit = one;
        QVERIFY(fit);
        QTest::mouseClick(fit, Qt::LeftButton, {}, {fit->width() - 10, fit->height() / 2});
        const auto isFilled = [this] {
            for (const FacePart& part : root("vessel").parts)
                if (part.kind == FacePartKind::Picture) return part.picture.fills;
            return false;
        };
        QTRY_VERIFY(isFilled());
        window_->document().undo();
        QTRY_VERIFY(!isFilled());
    }

    /// Undone from outside while it is open, the column taken away, the table without records: it follows or closes.
    void itFollowsWhatHappensAround() {
        openEditor("work");
        popover().tiles().tile(FacePartKind::Text)->click();
        popover().tiles().tile(FacePartKind::Mark)->click();
        QTRY_COMPARE(partCount(root()), std::size_t{4});
        window_->document().undo();
        window_->document().undo();
        QTRY_VERIFY(design().faces.empty());
        QVERIFY(partAt(face::field(), popover().selected()));
        grid().changeDesign([](Design& d) { d.filter = {{"number < 0", "", "", true}}; });
        QTRY_COMPARE(grid().lineCount(), 0);
        QVERIFY(build().editors().face()->isVisible());
        popover().tiles().tile(FacePartKind::Bar)->click();
        Design without = design();
        std::erase_if(without.columns, [](const ColumnDesign& c) { return c.field == "work"; });
        window_->document().apply(without, "Take Work out");
        QTRY_VERIFY(!build().editors().face() || !build().editors().face()->isVisible());
    }
};

QTEST_MAIN(FacesWorkbenchTest)
#include "tst_faces_workbench.moc"
