// SPDX-License-Identifier: MIT
// Pictures in a real grid: decoded within their bounds, painted when they come, kept in bounded memory, enlarged, and
// edited: loaded, pasted, dropped, saved out, taken out, refused when they are none, undone by their bytes.
#include <QtTest>

#include <QBuffer>
#include <QClipboard>
#include <QFileDialog>
#include <QHelpEvent>
#include <QMimeData>
#include <QPainter>

#include "grid/pictures/decode_picture.h"
#include "grid/pictures/picture_panel.h"
#include "grid/pictures/picture_shelf.h"
#include "tests/grid/grid_fixture.h"
#include "tests/pictures/bytes.h"
#include "tests/sources/database.h"

using namespace jollyrow;

namespace {

std::string encoded(const QImage& image, const char* format) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    image.save(&buffer, format, 100);
    return bytes.toStdString();
}

/// The left half in one colour, the right in another.
QImage halves(QSize size, QColor left, QColor right) {
    QImage image(size, QImage::Format_RGB32);
    image.fill(right);
    QPainter(&image).fillRect(0, 0, size.width() / 2, size.height(), left);
    return image;
}

std::string plainPng(QColor colour, QSize size = {40, 30}) { return encoded(halves(size, colour, colour), "PNG"); }

bool isNear(QRgb a, QColor b, int by = 12) {
    return qAbs(qRed(a) - b.red()) <= by && qAbs(qGreen(a) - b.green()) <= by && qAbs(qBlue(a) - b.blue()) <= by;
}

const QColor kRed(200, 30, 30), kGreen(30, 160, 60), kBlue(40, 60, 200);

std::string svgOf(const char* inside) {
    return std::string("<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 4 3'>") + inside + "</svg>";
}

}  // namespace

class PicturesTest : public QObject {
    Q_OBJECT
    std::unique_ptr<QTemporaryDir> folder_;
    QString path_;
    std::unique_ptr<Grid> grid_;
    QStringList said_;

    Grid& grid() { return *grid_; }
    void make(int boats, const std::function<std::string(int)>& picture) {
        folder_ = std::make_unique<QTemporaryDir>();
        path_ = folder_->filePath("boats.db");
        sqlite3* db = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        sqlite3_exec(db, "CREATE TABLE boats (id INTEGER PRIMARY KEY, name TEXT, picture BLOB, file TEXT); BEGIN",
                     nullptr, nullptr, nullptr);
        sqlite3_stmt* insert = nullptr;
        sqlite3_prepare_v2(db, "INSERT INTO boats VALUES (?1, 'boat ' || ?1, ?2, 'small/' || ?1 || '.png')", -1,
                           &insert, nullptr);
        for (int i = 1; i <= boats; ++i) {
            const std::string bytes = picture(i);
            sqlite3_bind_int(insert, 1, i);
            bytes.empty() ? sqlite3_bind_null(insert, 2)
                          : sqlite3_bind_blob64(insert, 2, bytes.data(), bytes.size(), SQLITE_TRANSIENT);
            sqlite3_step(insert);
            sqlite3_reset(insert);
        }
        sqlite3_finalize(insert);
        sqlite3_exec(db, "COMMIT", nullptr, nullptr, nullptr);
        sqlite3_close(db);
    }
    void open(const std::function<void(Design&)>& change = {}) {
        auto source = openSource(path_.toStdString());
        Design design = designFor(*(*source)->schema({"boats", "", {}}), {"sqlite", path_.toStdString(), "boats", ""});
        for (ColumnDesign& column : design.columns) column.width = {WidthMode::Fixed, 120, 1, 32, 0};
        design.grid.stripes = false;
        if (change) change(design);
        grid_ = std::make_unique<Grid>();
        grid_->resize(700, 500);
        said_.clear();
        connect(grid_.get(), &Grid::failed, this, [this](const QString& message) { said_ << message; });
        QVERIFY(grid_->open(design, path_).ok());
        grid_->show();
        QVERIFY(QTest::qWaitForWindowExposed(grid_.get()));
        grid_->activateWindow();
        QTRY_VERIFY(!grid_->isLoading() && grid_->lineCount() > 0);
    }
    QImage cell(std::int64_t line, const char* field = "picture") {
        return grid().viewport()->grab().toImage().copy(grid().places().cell(line, field));
    }
    /// The colour in the middle of a cell.
    QRgb middle(std::int64_t line, const char* field = "picture") {
        const QImage image = cell(line, field);
        return image.pixel(image.rect().center());
    }
    void choose(std::int64_t line, const char* field = "picture") {
        QTest::mouseClick(grid().viewport(), Qt::LeftButton, {}, grid().places().cell(line, field).center());
    }
    std::string stored(int id) {
        sqlite3* db = nullptr;
        sqlite3_stmt* statement = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &db);
        sqlite3_busy_timeout(db, 5000);  // a save may be under way
        sqlite3_prepare_v2(db, "SELECT picture FROM boats WHERE id = ?1", -1, &statement, nullptr);
        sqlite3_bind_int(statement, 1, id);
        std::string out;
        if (sqlite3_step(statement) == SQLITE_ROW && sqlite3_column_type(statement, 0) == SQLITE_BLOB)
            out.assign(static_cast<const char*>(sqlite3_column_blob(statement, 0)),
                       static_cast<std::size_t>(sqlite3_column_bytes(statement, 0)));
        sqlite3_finalize(statement);
        sqlite3_close(db);
        return out;
    }
    static const QMimeData* copied() { return QApplication::clipboard()->mimeData(); }
    PicturePanel* panel() { return grid().findChild<PicturePanel*>(); }
    void hover(QPoint at) {
        QHelpEvent event(QEvent::ToolTip, at, grid().viewport()->mapToGlobal(at));
        QCoreApplication::sendEvent(grid().viewport(), &event);
    }

  private Q_SLOTS:
    void cleanup() {
        grid_.reset();
        QApplication::clipboard()->clear();
    }

    void picturesAreFittedFilledAndTurned() {
        const QImage wide = halves({80, 20}, kRed, kBlue);
        for (const char* format : {"PNG", "JPEG"}) {
            const auto fitted = decodePicture(encoded(wide, format), {40, 40}, false);
            QVERIFY(fitted.ok());
            QCOMPARE(fitted->image.size(), QSize(40, 10));
            QCOMPARE(fitted->natural, QSize(80, 20));
            QVERIFY(isNear(fitted->image.pixel(5, 5), kRed) && isNear(fitted->image.pixel(34, 5), kBlue));
            const auto filled = decodePicture(encoded(wide, format), {10, 20}, true);
            QCOMPARE(filled->image.size(), QSize(10, 20));
            QVERIFY(isNear(filled->image.pixel(1, 10), kRed) && isNear(filled->image.pixel(8, 10), kBlue));
            // A small one stays as it is.
            QCOMPARE(decodePicture(encoded(wide, format), {400, 400}, false)->image.size(), QSize(80, 20));
        }
        const auto drawn = decodePicture(svgOf("<rect width='2' height='3' fill='red'/>"), {40, 40}, false);
        QCOMPARE(drawn->image.size(), QSize(40, 30));
        QVERIFY(isNear(drawn->image.pixel(5, 15), QColor(255, 0, 0)));
        QCOMPARE(qAlpha(drawn->image.pixel(35, 15)), 0);
        // As the camera was held: Exif orientation 6, a quarter to the right.
        std::string jpeg = encoded(wide, "JPEG");
        const std::string exif(
            "\xff\xe1\x00\x22"
            "Exif\0\0II*\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0\x06\0\0\0\0\0\0\0",
            36);
        jpeg.insert(2, exif);
        const auto turned = decodePicture(jpeg, {40, 40}, false);
        QVERIFY(turned.ok());
        QCOMPARE(turned->natural, QSize(20, 80));
        QVERIFY(isNear(turned->image.pixel(5, 4), kRed) && isNear(turned->image.pixel(5, 35), kBlue));
    }

    void whatIsNoPictureIsRefusedBeforeItIsDecoded() {
        const std::string png = encoded(halves({300, 300}, kRed, kBlue), "PNG");
        const std::string jpeg = encoded(halves({300, 300}, kRed, kBlue), "JPEG");
        for (const std::string& bad :
             {std::string(), std::string("no picture"), test::pngHeader(60'000, 60'000), test::pngHeader(100, 100),
              test::jpegHeader(65'000, 65'000), test::jpegHeader(100, 100), png.substr(0, 60), png.substr(0, 40),
              jpeg.substr(0, 200), "\x89PNG\r\n\x1a\n" + jpeg, svgOf("<g>"), std::string("<svg/"),
              svgOf("<g id='a'><use href='#a'/></g>")}) {
            const auto picture = decodePicture(bad, {40, 30}, false);
            QVERIFY2(!picture, bad.substr(0, 40).c_str());
            QVERIFY(!picture.error().message.empty());
        }
        // A name says nothing: a JPEG is one whatever its column is called, and every cut of a picture has an answer.
        for (const std::string& whole : {png, jpeg})
            for (std::size_t length = 0; length < whole.size(); length += whole.size() / 60 + 1) {
                const auto part = decodePicture(whole.substr(0, length), {9, 9}, true);
                QVERIFY(part || !part.error().message.empty());
            }
    }

    void aPictureIsPaintedWhenItComes() {
        make(6, [](int i) {
            return i == 2 ? std::string() : i == 3 ? std::string("\x89PNG broken") : plainPng(i % 2 ? kRed : kGreen);
        });
        open();
        QTRY_VERIFY(isNear(middle(0), kRed));
        QTRY_VERIFY(isNear(middle(3), kGreen));
        QTRY_VERIFY(!grid().pictures().isBusy());
        // Nothing, and what is no picture, look like neither each other nor a picture.
        QVERIFY(cell(1) != cell(2));
        QVERIFY(!isNear(middle(2), kRed) && !isNear(middle(2), kGreen));
        QCOMPARE(grid().recordAt(0).text("picture").left(7), QString("picture"));
        QVERIFY(grid().recordAt(1).text("picture").isEmpty());
        // Dark, larger, filled: others are asked for.
        grid().changeDesign([](Design& d) {
            d.grid.theme = GridTheme::Dark;
            d.grid.rowHeight = 60;
        });
        QTRY_VERIFY(isNear(middle(0), kRed));
        const auto width = [this] {
            const QImage image = cell(0);
            int count = 0;
            for (int x = 0; x < image.width(); ++x) count += isNear(image.pixel(x, image.height() / 2), kRed) ? 1 : 0;
            return count;
        };
        const int fitted = width();
        PictureDesign fills;
        fills.fills = true;
        grid().changeDesign([&](Design& d) {
            d.faces = {{"Boat", face::picture({}, fills)}};
            d.column("picture")->face = "Boat";
        });
        QTRY_VERIFY(isNear(middle(0), kRed));
        QTRY_VERIFY2(width() > fitted, qPrintable(QString("%1 %2").arg(width()).arg(fitted)));
    }

    /// However many are scrolled past, memory stays in its bound and what is seen at the end is right.
    void manyPicturesStayWithinTheirMemory() {
        make(3000, [](int i) { return plainPng(QColor(i % 200, i / 200 * 12, 90), {200, 150}); });
        open([](Design& d) {
            d.grid.pictureMegabytes = 1;
            d.grid.rowHeight = 80;
        });
        for (int line = 0; line < 3000; line += 40) {
            grid().selection().showLine(line);
            grid().viewport()->grab();
            QTest::qWait(4);
            QVERIFY2(grid().pictures().held() <= 1'000'000, qPrintable(QString::number(grid().pictures().held())));
        }
        QTRY_VERIFY(!grid().pictures().isBusy());  // also those that were dropped
        QVERIFY(grid().pictures().held() > 100'000);
        for (const int line : {2999, 0, 1500}) {
            grid().selection().showLine(line);
            const QColor colour((line + 1) % 200, (line + 1) / 200 * 12, 90);
            QTRY_VERIFY2(isNear(middle(line), colour, 3), qPrintable(QString::number(line)));
        }
    }

    void aRecordKeepsItsPictureOverSortFilterAndReload() {
        make(8, [](int i) { return plainPng(i % 3 == 0 ? kRed : i % 3 == 1 ? kGreen : kBlue); });
        open();
        const auto rightEverywhere = [this] {
            for (std::int64_t line = 0; line < grid().lineCount(); ++line) {
                const int id = grid().recordAt(line).text("id").toInt();
                if (!isNear(middle(line), id % 3 == 0 ? kRed : id % 3 == 1 ? kGreen : kBlue)) return false;
            }
            return true;
        };
        QTRY_VERIFY(rightEverywhere());
        SortDesign by;
        by.field = "id";
        by.direction = Direction::Descending;
        grid().setSort({by});
        QTRY_VERIFY(grid().recordAt(0).text("id") == "8" && rightEverywhere());
        QVERIFY(grid().filters().set("f", "MOD(id, 2) = 0").ok());
        QTRY_VERIFY(grid().lineCount() == 4 && rightEverywhere());
        grid().filters().clear();
        run(path_,
            "DELETE FROM boats WHERE id IN (2, 5); UPDATE boats SET picture = (SELECT picture FROM boats WHERE id = 3)"
            " WHERE id = 6");
        grid().reload();
        QTRY_COMPARE(grid().lineCount(), 6);
        QTRY_VERIFY(rightEverywhere());
        // Another column before it: fields are counted anew.
        grid().changeDesign([](Design& d) {
            ColumnDesign computed;
            computed.field = "twice";
            computed.heading = "Twice";
            computed.rule = "id * 2";
            d.columns.insert(d.columns.begin(), computed);
        });
        QTRY_VERIFY(rightEverywhere());
    }

    void aPictureIsPastedCopiedAndTakenOut() {
        make(4, [](int i) { return i == 2 ? std::string() : plainPng(kRed); });
        open();
        grid().selection().setMode(SelectionMode::Cells);
        QTRY_VERIFY(isNear(middle(0), kRed));
        choose(0);
        QTest::keyClick(grid_.get(), Qt::Key_C, Qt::ControlModifier);
        QTRY_VERIFY(copied() && copied()->hasFormat("image/png"));
        QCOMPARE(copied()->data("image/png").toStdString(), stored(1));
        QVERIFY(copied()->hasImage());
        choose(1);
        QTest::keyClick(grid_.get(), Qt::Key_V, Qt::ControlModifier);
        QTRY_COMPARE(stored(2), plainPng(kRed));
        QTRY_VERIFY(isNear(middle(1), kRed));
        // An image of another program has no bytes of its own: it becomes a PNG.
        auto* data = new QMimeData;
        data->setImageData(halves({30, 20}, kBlue, kBlue));
        QApplication::clipboard()->setMimeData(data);
        choose(2);
        QTest::keyClick(grid_.get(), Qt::Key_V, Qt::ControlModifier);
        QTRY_VERIFY(isNear(middle(2), kBlue));
        QTRY_COMPARE(QImage::fromData(QByteArray::fromStdString(stored(3))).size(), QSize(30, 20));
        QTest::keyClick(grid_.get(), Qt::Key_Delete);
        QTRY_COMPARE(stored(3), std::string());
        QTRY_VERIFY(!isNear(middle(2), kBlue));
        // A text is no picture; nothing happens to the cell.
        QApplication::clipboard()->setText("boat");
        choose(0);
        QTest::keyClick(grid_.get(), Qt::Key_V, Qt::ControlModifier);
        // Neither is what says that it is one.
        data = new QMimeData;
        data->setData("image/png", "\x89PNG\r\n\x1a\n and no more");
        QApplication::clipboard()->setMimeData(data);
        QTest::keyClick(grid_.get(), Qt::Key_V, Qt::ControlModifier);
        QTRY_VERIFY(!said_.isEmpty());
        QCOMPARE(stored(1), plainPng(kRed));
    }

    /// The edit that an application hears of has the bytes that stood there, so that undo brings them back.
    void whatStoodThereIsTold() {
        make(2, [](int) { return plainPng(kRed); });
        open();
        std::vector<Value> heard;
        connect(grid_.get(), &Grid::cellEdited, this,
                [&](const Record&, const QString&, const Value& before, const Value& after) {
                    heard = {before, after};
                });
        choose(0);
        QTest::keyClick(grid_.get(), Qt::Key_Delete);
        QTRY_COMPARE(stored(1), std::string());
        QCOMPARE(heard, (std::vector<Value>{Bytes{plainPng(kRed)}, Empty{}}));
        QVERIFY(grid().records().setValue(grid().recordAt(0), "picture", heard[0]));
        QTRY_COMPARE(stored(1), plainPng(kRed));
        QTRY_VERIFY(isNear(middle(0), kRed));
    }

    void thePanelDoesItAllByKeys() {
        make(3, [](int i) { return i == 2 ? std::string() : plainPng(i == 1 ? kRed : kGreen); });
        open();
        choose(0);
        QTest::keyClick(grid_.get(), Qt::Key_F2);
        QVERIFY(panel() && panel()->isVisible());
        QTRY_COMPARE(panel()->view().caption().left(12), QString("PNG, 40 × 30"));
        QVERIFY(panel()->isAncestorOf(QApplication::focusWidget()));
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Delete);
        QTRY_COMPARE(stored(1), std::string());
        QVERIFY(!panel()->isVisible());
        QVERIFY(grid().hasFocus());
        // Of an empty cell nothing can be copied or taken out; one can be put in.
        choose(1);
        QTest::keyClick(grid_.get(), Qt::Key_F2);
        QVERIFY(panel()->isVisible());
        QVERIFY(!panel()->button(PicturePanel::Action::Copy)->isEnabled());
        QVERIFY(!panel()->button(PicturePanel::Action::Empty)->isEnabled());
        auto* data = new QMimeData;
        data->setData("image/svg+xml", QByteArray::fromStdString(svgOf("<rect width='4' height='3' fill='#1ea03c'/>")));
        QApplication::clipboard()->setMimeData(data);
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_V, Qt::ControlModifier);
        QTRY_VERIFY(isNear(middle(1), QColor(0x1e, 0xa0, 0x3c)));
        QTRY_VERIFY(stored(2).starts_with("<svg"));
        // Escape leaves everything.
        choose(2);
        QTest::keyClick(grid_.get(), Qt::Key_Return);
        if (!panel()->isVisible()) QTest::keyClick(grid_.get(), Qt::Key_F2);
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Escape);
        QVERIFY(!panel()->isVisible());
        QCOMPARE(stored(3), plainPng(kGreen));
        // Scrolling and a click elsewhere close it.
        QTest::keyClick(grid_.get(), Qt::Key_F2);
        QVERIFY(panel()->isVisible());
        choose(0, "name");
        QVERIFY(!panel()->isVisible());
    }

    void filesAreLoadedDroppedAndSavedOut() {
        make(4, [](int) { return plainPng(kRed); });
        open();
        const auto write = [this](const char* name, const std::string& bytes) {
            QFile file(folder_->filePath(name));
            file.open(QIODevice::WriteOnly);
            file.write(bytes.data(), static_cast<qint64>(bytes.size()));
            return file.fileName();
        };
        const QString green = write("green.jpg", encoded(halves({60, 40}, kGreen, kGreen), "JPEG"));
        const QString text = write("text.png", "no picture");
        const auto dialog = [this] { return grid().findChild<QFileDialog*>(); };
        const auto chooseFile = [&](PicturePanel::Action action, const QString& file) {
            QTest::keyClick(grid_.get(), Qt::Key_F2);
            QTest::mouseClick(panel()->button(action), Qt::LeftButton);
            QTRY_VERIFY(dialog());
            Q_EMIT dialog()->fileSelected(file);
            dialog()->close();
            QTRY_VERIFY(!dialog());
        };
        choose(0);
        chooseFile(PicturePanel::Action::Load, green);
        QTRY_VERIFY(isNear(middle(0), kGreen));
        QTRY_COMPARE(stored(1), encoded(halves({60, 40}, kGreen, kGreen), "JPEG"));
        chooseFile(PicturePanel::Action::Load, text);
        QTRY_VERIFY(!said_.isEmpty() && said_.last().contains("text.png"));
        const QString out = folder_->filePath("out.jpg");
        chooseFile(PicturePanel::Action::Save, out);
        QTRY_VERIFY(QFile::exists(out));
        QFile file(out);
        QVERIFY(file.open(QIODevice::ReadOnly));
        QCOMPARE(file.readAll().toStdString(), stored(1));
        said_.clear();
        chooseFile(PicturePanel::Action::Save, folder_->filePath("no/such/folder.jpg"));
        QTRY_VERIFY(!said_.isEmpty());
        // Dropped on a picture it is taken, elsewhere it is not.
        const auto drop = [&](std::int64_t line, const char* field, const QString& dropped) {
            QMimeData data;
            data.setUrls({QUrl::fromLocalFile(dropped)});
            const QPoint at = grid().places().cell(line, field).center();
            QDragEnterEvent enter(at, Qt::CopyAction, &data, Qt::LeftButton, {});
            QCoreApplication::sendEvent(grid().viewport(), &enter);
            QDragMoveEvent move(at, Qt::CopyAction, &data, Qt::LeftButton, {});
            QCoreApplication::sendEvent(grid().viewport(), &move);
            if (!move.isAccepted()) return false;
            QDropEvent event(at, Qt::CopyAction, &data, Qt::LeftButton, {});
            QCoreApplication::sendEvent(grid().viewport(), &event);
            return event.isAccepted();
        };
        QVERIFY(drop(2, "picture", green));
        QTRY_VERIFY(isNear(middle(2), kGreen));
        QVERIFY(!drop(1, "name", green));
        QCOMPARE(stored(2), plainPng(kRed));
    }

    /// A column that names files takes pictures, too: they are kept in its folder and named, and undone by their names.
    void aColumnOfFileNamesTakesPictures() {
        make(3, [](int) { return std::string(); });
        const auto shows = [this](std::int64_t line, const QColor& colour) {
            const QImage image = cell(line, "file");
            int pixels = 0;
            for (int y = 0; y < image.height(); ++y)
                for (int x = 0; x < image.width(); ++x) pixels += isNear(image.pixel(x, y), colour);
            return pixels > 40;
        };
        open([](Design& d) {
            d.faces = {{"f", face::picture()}};
            d.column("file")->face = "f";
            d.source.pictures = "shots";
        });
        QFile green(folder_->filePath("The green one.png"));
        QVERIFY(green.open(QIODevice::WriteOnly));
        green.write(QByteArray::fromStdString(plainPng(kGreen)));
        green.close();
        choose(1, "file");
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(green.fileName())});
        const QPoint at = grid().places().cell(1, "file").center();
        QDragEnterEvent enter(at, Qt::CopyAction, &data, Qt::LeftButton, {});
        QCoreApplication::sendEvent(grid().viewport(), &enter);
        QDragMoveEvent move(at, Qt::CopyAction, &data, Qt::LeftButton, {});
        QCoreApplication::sendEvent(grid().viewport(), &move);
        QVERIFY(move.isAccepted());
        QDropEvent event(at, Qt::CopyAction, &data, Qt::LeftButton, {});
        QCoreApplication::sendEvent(grid().viewport(), &event);
        QTRY_VERIFY2(grid().recordAt(1).value("file") == Value(std::string("The-green-one.png")),
                     qPrintable(said_.join(", ") + grid().recordAt(1).text("file")));
        QTRY_VERIFY(shows(1, kGreen));
        QVERIFY(QFile::exists(folder_->filePath("shots/The-green-one.png")));
        // Pasted: a name of its own beside it; taken out by Delete, the file stays.
        auto* pasted = new QMimeData;
        pasted->setImageData(halves({30, 20}, kBlue, kBlue));
        QApplication::clipboard()->setMimeData(pasted);
        choose(2, "file");
        QTest::keyClick(grid_.get(), Qt::Key_V, Qt::ControlModifier);
        QTRY_COMPARE(grid().recordAt(2).text("file"), QString("picture.png"));
        QTRY_VERIFY(shows(2, kBlue));
        QTest::keyClick(grid_.get(), Qt::Key_Delete);
        QTRY_VERIFY(grid().recordAt(2).text("file").isEmpty());
        QVERIFY(QFile::exists(folder_->filePath("shots/picture.png")));
        // Text that is pasted and no picture is a value like any other.
        QApplication::clipboard()->setText("plain");
        QTest::keyClick(grid_.get(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(grid().recordAt(2).text("file"), QString("plain"));
    }

    /// What was in the way of reading may go: the picture is there then without a reload.
    void aPictureThatCouldNotBeReadIsTriedAgain() {
        make(1, [](int) { return plainPng(kGreen, {80, 60}); });
        open();
        QTRY_VERIFY(isNear(middle(0), kGreen));
        grid().reload();  // read before, to be read again
        QTRY_VERIFY(!grid().isLoading());
        sqlite3* other = nullptr;
        sqlite3_open(path_.toUtf8().constData(), &other);
        sqlite3_busy_timeout(other, 5000);
        QCOMPARE(sqlite3_exec(other, "BEGIN EXCLUSIVE", nullptr, nullptr, nullptr), SQLITE_OK);
        grid().changeDesign([](Design& d) { d.grid.rowHeight = 50; });  // in another size
        grid().viewport()->grab();
        QTRY_VERIFY_WITH_TIMEOUT(!grid().pictures().isBusy(), 20'000);
        QVERIFY(!isNear(middle(0), kGreen));
        sqlite3_exec(other, "COMMIT", nullptr, nullptr, nullptr);
        sqlite3_close(other);
        QTRY_VERIFY_WITH_TIMEOUT(isNear(middle(0), kGreen), 15'000);
    }

    void aPictureUnderThePointerIsEnlarged() {
        make(3, [](int i) { return i == 2 ? std::string("\x89PNG\r\n\x1a\n") : plainPng(kRed, {400, 300}); });
        open();
        QTRY_VERIFY(isNear(middle(0), kRed));
        const auto card = [this] { return grid().findChild<PictureCard*>(); };
        hover(grid().places().cell(0, "picture").center());
        QVERIFY(card() && card()->isVisible());
        QTRY_COMPARE(card()->view().caption().left(14), QString("PNG, 400 × 300"));
        QTRY_VERIFY(isNear(card()->view().grab().toImage().pixel(150, 100), kRed));
        QTest::mouseMove(grid().viewport(), grid().places().cell(0, "name").center());
        QVERIFY(!card()->isVisible());
        // Of one that cannot be seen it says why.
        hover(grid().places().cell(1, "picture").center());
        QTRY_VERIFY(card()->isVisible() && card()->view().caption().contains("damaged"));
        // By choice only.
        PictureDesign still;
        still.enlarges = false;
        grid().changeDesign([&](Design& d) {
            d.faces = {{"Boat", face::picture({}, still)}};
            d.column("picture")->face = "Boat";
        });
        hover(grid().places().cell(0, "picture").center());
        QVERIFY(!card()->isVisible());
    }

    void picturesAreNamedByFile() {
        make(5, [](int) { return std::string(); });
        QVERIFY(QDir().mkpath(folder_->filePath("album/small")));
        const auto write = [this](const QString& name, const std::string& bytes) {
            QFile file(folder_->filePath(name));
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(bytes.data(), static_cast<qint64>(bytes.size()));
        };
        write("album/small/1.png", plainPng(kBlue));
        write("secret.png", plainPng(kRed));
        run(path_,
            "UPDATE boats SET file = '../secret.png' WHERE id = 2; UPDATE boats SET file = '/dev/zero' WHERE id = 4");
        open([](Design& d) {
            d.source.pictures = "album";
            d.faces = {{"Boat", face::picture().aligned(Alignment::Center)}};
            d.column("file")->face = "Boat";
        });
        QTRY_VERIFY(isNear(middle(0, "file"), kBlue));
        for (int line = 1; line < 4; ++line) {
            hover(grid().places().cell(line, "file").center());
            QTRY_VERIFY(!grid().findChild<PictureCard*>()->view().caption().startsWith("Being"));
            QVERIFY(!isNear(middle(line, "file"), kRed));
        }
        // What is edited is the name.
        choose(1, "file");
        QTest::keyClick(grid_.get(), Qt::Key_F2);
        QVERIFY(!panel() || !panel()->isVisible());
        QVERIFY(QApplication::focusWidget() != grid_.get());
    }

    /// Another name is another picture, and an answer that was on its way when something was typed is of neither.
    void whatIsTypedIsWhatIsSeen() {
        make(2, [](int) { return plainPng(kRed); });
        QVERIFY(QDir().mkpath(folder_->filePath("other")));
        const auto write = [this](const QString& name, QColor colour) {
            QFile file(folder_->filePath(name));
            QVERIFY(file.open(QIODevice::WriteOnly));
            const std::string bytes = plainPng(colour);
            file.write(bytes.data(), static_cast<qint64>(bytes.size()));
        };
        write("a.png", kRed);
        write("b.png", kGreen);
        write("other/a.png", kBlue);
        run(path_, "UPDATE boats SET file = 'a.png'");
        open([](Design& d) {
            d.faces = {{"Boat", face::picture().aligned(Alignment::Center)}};
            d.column("file")->face = "Boat";
        });
        QTRY_VERIFY(isNear(middle(0, "file"), kRed));
        QVERIFY(grid().records().setValue(grid().recordAt(0), "file", std::string("b.png")));
        QTRY_VERIFY(isNear(middle(0, "file"), kGreen));
        QVERIFY(grid().records().setValue(grid().recordAt(0), "file", std::string("a.png")));
        QTRY_VERIFY(isNear(middle(0, "file"), kRed));
        grid().changeDesign([](Design& d) { d.source.pictures = "other"; });
        QTRY_VERIFY(isNear(middle(0, "file"), kBlue));
        // Typed again and again, each before the last has come.
        for (int round = 0; round < 40; ++round) {
            const QColor colour = round % 3 == 0 ? kRed : round % 3 == 1 ? kGreen : kBlue;
            QVERIFY(grid().records().setValue(grid().recordAt(1), "picture", Bytes{plainPng(colour)}));
            if (round % 4 != 0) grid().viewport()->grab();
            if (round % 5 == 0) QCoreApplication::processEvents();
        }
        QTRY_VERIFY(!grid().pictures().isBusy() && grid().records().unsaved() == 0);
        QTRY_VERIFY(isNear(middle(1), kRed));
        QTest::qWait(50);
        QVERIFY(isNear(middle(1), kRed));
        QCOMPARE(stored(2), plainPng(kRed));
    }

    void aReadOnlyPictureCanOnlyBeSeenAndCopied() {
        make(2, [](int) { return plainPng(kRed); });
        open([](Design& d) { d.column("picture")->readOnly = true; });
        QTRY_VERIFY(isNear(middle(0), kRed));
        choose(0);
        QTest::keyClick(grid_.get(), Qt::Key_Delete);
        QApplication::clipboard()->setImage(halves({9, 9}, kBlue, kBlue));
        QTest::keyClick(grid_.get(), Qt::Key_V, Qt::ControlModifier);
        QTest::keyClick(grid_.get(), Qt::Key_Space);
        QVERIFY(panel() && panel()->isVisible());
        QVERIFY(!panel()->button(PicturePanel::Action::Load)->isVisible());
        QVERIFY(!panel()->button(PicturePanel::Action::Empty)->isVisible());
        QTest::mouseClick(panel()->button(PicturePanel::Action::Copy), Qt::LeftButton);
        QTRY_VERIFY(copied() && copied()->hasFormat("image/png"));
        QCOMPARE(stored(1), plainPng(kRed));
    }

    /// The record goes while its picture is on the way: said, and nobody else gets it.
    void aRecordThatGoesKeepsNothing() {
        make(3, [](int) { return plainPng(kRed); });
        open();
        choose(0);
        run(path_, "DELETE FROM boats WHERE id = 1");
        QApplication::clipboard()->setImage(halves({9, 9}, kBlue, kBlue));
        QTest::keyClick(grid_.get(), Qt::Key_V, Qt::ControlModifier);
        grid().reload();
        QTRY_VERIFY(!said_.isEmpty());
        QTRY_COMPARE(grid().lineCount(), 2);
        QCOMPARE(stored(2), plainPng(kRed));
        QCOMPARE(stored(3), plainPng(kRed));
    }
};

QTEST_MAIN(PicturesTest)
#include "tst_pictures.moc"
