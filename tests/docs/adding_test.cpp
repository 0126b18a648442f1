// SPDX-License-Identifier: MIT
// The examples of docs/adding.md, compiled as they stand on the page and put to work.
#include <QtTest>

#include <QImage>

#include "core/design/grid_switches.h"
#include "quarter_editor.h"
#include "stars_face.h"
#include "tests/sources/conformance.h"
#include "tides_source.h"

using namespace jollyrow;

namespace {

// The registries, with the lines of the page in them.
template <class Face>
const CellFace& only() {
    static const Face face;
    return face;
}
template <class Kind>
Editor* made(const EditorTask& task, QWidget* parent) {
    return new Kind(task, parent);
}
struct FaceKind {
    bool (*shows)(const PlannedColumn& column);
    const CellFace& (*face)();
};
struct EditorKind {
    bool (*edits)(const EditorTask& task);
    Editor* (*make)(const EditorTask& task, QWidget* parent);
};
struct SourceKind {
    bool (*knows)(const std::string& address);
    Result<std::shared_ptr<const Source>> (*open)(const std::string& address);
    Result<std::unique_ptr<Store>> (*openStore)(const std::string& address);
};
constexpr FaceKind kFaces[] = {
#include "face_line.inc"
};
constexpr EditorKind kEditors[] = {
#include "editor_line.inc"
};
constexpr SourceKind kSources[] = {
#include "source_line.inc"
};
constexpr GridSwitch kSwitches[] = {
#include "setting_line.inc"
};

QImage painted(const CellFace& face, const char* text) {
    QImage image(160, 60, QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter painter(&image);
    GlyphText glyphs{QFont()};
    const PlannedColumn column;
    CellText cell;
    cell.text = text;
    face.paint({painter, glyphs, tokens(Theme::Light)}, {column, cell, QRect(30, 15, 100, 26)});
    glyphs.flush(painter, {Qt::black, Qt::black, Qt::black, Qt::black});
    return image;
}

}  // namespace

class AddingTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void theFaceShowsItsColumnAndStaysInItsCell() {
        PlannedColumn column;
        QVERIFY(!kFaces[0].shows(column));
        column.design.field = "stars";
        QVERIFY(kFaces[0].shows(column));
        const CellFace& face = kFaces[0].face();
        QVERIFY(painted(face, "2") != painted(face, "3"));
        const QImage image = painted(face, "5");
        for (int y = 0; y < image.height(); ++y)
            for (int x = 0; x < image.width(); ++x)
                if (!QRect(30, 15, 100, 26).contains(x, y)) QCOMPARE(image.pixel(x, y), QColor(Qt::white).rgb());
    }

    void theEditorTakesQuartersOnly() {
        QWidget window;
        EditorTask task;
        task.field.name = "hours";
        task.field.type = Type::Decimal;
        task.field.scale = 2;
        QVERIFY(kEditors[0].edits(task));
        std::unique_ptr<Editor> editor(kEditors[0].make(task, &window));
        for (const auto& [typed, good] : {std::pair("1.25", true), std::pair("1.3", false), std::pair("7", true),
                                          std::pair("0.01", false), std::pair("", true)}) {
            editor->beginWith(typed);
            QVERIFY2(editor->entered().ok() == good, typed);
        }
        editor->beginWith("1.3");
        QVERIFY(editor->entered().error().message.find("1.25") != std::string::npos);
    }

    void theSourceIsOne() {
        QVERIFY(kSources[0].knows("tides:") && !kSources[0].knows("yard.db"));
        const auto source = kSources[0].open("tides:");
        QVERIFY(source.ok());
        test::checkSource({*source, {}, "tides"});
        test::whatIsMissingIsNamed({*source, {}, "tides"});
    }

    void theSettingIsInTheFile() {
        const auto known = std::find_if(std::begin(kGridSwitches), std::end(kGridSwitches), [](const GridSwitch& s) {
            return std::string_view(s.key) == kSwitches[0].key;
        });
        QVERIFY(known != std::end(kGridSwitches));
        QCOMPARE(QString(known->words), QString(kSwitches[0].words));
        GridDesign grid;
        const bool before = grid.*known->setting;
        grid.*kSwitches[0].setting = !before;
        QVERIFY(grid.*known->setting != before);
    }
};

QTEST_MAIN(AddingTest)
#include "adding_test.moc"
