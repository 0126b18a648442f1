// SPDX-License-Identifier: MIT
// What is a picture, how large it says it is, and which files are opened for one.
#include <QtTest>

#include <random>

#include <map>

#include <sys/stat.h>

#include "core/base/base64.h"
#include "core/columns/value.h"
#include "core/pictures/picture_file.h"
#include "core/pictures/picture_kind.h"
#include "tests/pictures/bytes.h"

using namespace jollyrow;
using test::jpegHeader;
using test::pngHeader;

class PictureTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void kindsAreToldByTheirBytes_data() {
        QTest::addColumn<QByteArray>("bytes");
        QTest::addColumn<QString>("kind");
        const auto add = [](const char* name, const std::string& bytes, const char* kind) {
            QTest::newRow(name) << QByteArray::fromStdString(bytes) << QString::fromUtf8(kind);
        };
        add("png", pngHeader(3, 4), "PNG");
        add("jpeg", jpegHeader(3, 4), "JPEG");
        add("svg", "<svg/>", "SVG");
        add("svg behind a declaration", "<?xml version='1.0'?>\n<!-- <b> -->\n<!DOCTYPE svg>\n<svg xmlns='x'></svg>",
            "SVG");
        add("svg with a prefix and a mark", "\xef\xbb\xbf  <s:svg xmlns:s='x'/>", "SVG");
        add("nothing", "", "");
        add("a text", "svg", "");
        add("html", "<html><svg/></html>", "");
        add("a comment without end", "<!-- <svg>", "");
        add("the words PNG", "PNG\r\n", "");
        add("half a signature", "\x89PNG", "");
        add("gif", "GIF89a", "");
        add("svg far behind", "<!--" + std::string(5000, 'x') + "--><svg/>", "");
    }
    void kindsAreToldByTheirBytes() {
        QFETCH(QByteArray, bytes);
        QFETCH(QString, kind);
        const auto found = pictureKind(bytes.toStdString());
        QCOMPARE(found ? QString::fromStdString(std::string(name(*found))) : QString(), kind);
        if (found) QVERIFY(mediaType(*found).starts_with("image/"));
    }

    void sizesAreReadFromHeaders() {
        for (const auto& [width, height] : {std::pair{1U, 1U}, {96U, 72U}, {6000U, 5000U}, {60'000U, 1U}}) {
            const PictureSize size{static_cast<int>(width), static_cast<int>(height)};
            QCOMPARE(*pictureSize(pngHeader(width, height)), size);
            for (const char frame : {'\xc0', '\xc1', '\xc2', '\xc9'})
                for (const int before : {0, 1, 40})
                    QCOMPARE(*pictureSize(jpegHeader(width, height, before, frame)), size);
        }
    }

    /// Refused by what the header says, before anything is decoded; and every prefix has an answer.
    void whatIsTooLargeOrBrokenIsRefusedWithWords() {
        for (const auto& [width, height] : {std::pair{60'000U, 60'000U},
                                            {0xffffffffU, 1U},
                                            {0xffffffffU, 0xffff00f4U},
                                            {0x80000000U, 0x80000000U},
                                            {7000U, 7000U}}) {
            const auto png = pictureSize(pngHeader(width, height));
            QVERIFY(!png);
            QVERIFY2(png.error().message.find("smaller") != std::string::npos, png.error().message.c_str());
        }
        QVERIFY(!pictureSize(jpegHeader(65'535, 65'535)));
        QVERIFY(!pictureSize(pngHeader(0, 5)));
        QVERIFY(!pictureSize(jpegHeader(5, 0)));
        QVERIFY(!pictureSize("GIF89a"));
        for (const std::string& whole : {pngHeader(9, 9), jpegHeader(9, 9, 2)})
            for (std::size_t length = 0; length + 12 < whole.size(); ++length) {
                const auto part = pictureSize(whole.substr(0, length));
                QVERIFY(!part);
                QVERIFY(!part.error().message.empty());
            }
        // Tables that are numbered like frames, a segment that says it has no length, pixels without a frame.
        QVERIFY(!pictureSize(jpegHeader(9, 9, 0, '\xc4')));
        QVERIFY(!pictureSize(std::string("\xff\xd8\xff\xe1\x00\x00", 6) + std::string(40, 'x')));
        QVERIFY(!pictureSize(std::string("\xff\xd8\xff\xda\x00\x08", 6) + jpegHeader(9, 9)));
        QVERIFY(!pictureSize("\x89PNG\r\n\x1a\n" + std::string(kMostPictureBytes, 'x')));
    }

    void filesAreReadInTheirFolderOnly() {
        QTemporaryDir folder;
        const std::string root = folder.filePath("pictures").toStdString();
        QVERIFY(QDir().mkpath(folder.filePath("pictures/deep")));
        const auto write = [&](const char* name, const std::string& bytes) {
            QFile file(folder.filePath(name));
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(bytes.data(), static_cast<qint64>(bytes.size()));
        };
        write("secret.png", pngHeader(1, 1));
        write("pictures/a.png", pngHeader(2, 2));
        write("pictures/deep/b.png", pngHeader(3, 3));
        QVERIFY(QFile::link(folder.filePath("secret.png"), folder.filePath("pictures/out.png")));
        QVERIFY(QFile::link(folder.filePath("pictures/a.png"), folder.filePath("pictures/in.png")));
        QCOMPARE(::mkfifo(folder.filePath("pictures/pipe").toLocal8Bit().constData(), 0600), 0);
        QCOMPARE(*readPictureFile(root, "a.png"), pngHeader(2, 2));
        QCOMPARE(*readPictureFile(root, "deep/b.png"), pngHeader(3, 3));
        QCOMPARE(*readPictureFile(root, "deep/../a.png"), pngHeader(2, 2));
        QCOMPARE(*readPictureFile(root, "in.png"), pngHeader(2, 2));
        const std::string secret = folder.filePath("secret.png").toStdString();
        for (const std::string& named :
             {std::string("../secret.png"), std::string("deep/../../secret.png"), secret, std::string("out.png"),
              std::string("pipe"), std::string("deep"), std::string("missing.png"), std::string("/dev/zero"),
              std::string(""), std::string("a.png\0.jpg", 10), std::string(5000, 'x')}) {
            const auto read = readPictureFile(root, named);
            QVERIFY2(!read, named.c_str());
            QVERIFY(!read.error().message.empty());
        }
        QVERIFY(!readPictureFile(folder.filePath("nowhere").toStdString(), "a.png"));
        QVERIFY(readChosenPicture(secret));
        write("text.png", "no picture");
        QVERIFY(!readChosenPicture(folder.filePath("text.png").toStdString()));
        QVERIFY(!readChosenPicture(folder.filePath("pictures/pipe").toStdString()));
    }

    /// Whatever name is wished for, the file lies in the folder, is read back by the name it was given, and no file
    /// that was there is another one afterwards.
    void picturesAreKeptInTheirFolder() {
        QTemporaryDir folder;
        const std::string root = folder.filePath("deep/pictures").toStdString();  // to be made
        std::mt19937 random(8);
        std::map<std::string, std::string> kept;
        const std::vector<std::string> wishes = {
            "a.png",    "../../a.png",      "/etc/passwd", "",          "....",
            "ö ü.jpeg", "a/b/c/boat.svg",   "-rf",         "con\x01 x", std::string(400, 'y'),
            "a",        "The boat (2).JPG", ".hidden",     "b\0c"};
        for (int turn = 0; turn < 300; ++turn) {
            const std::string bytes = pngHeader(1 + random() % 5, 1 + random() % 5);
            const auto name = keepPictureFile(root, wishes[random() % wishes.size()], bytes);
            QVERIFY2(name, name ? "" : name.error().message.c_str());
            QVERIFY(name->find('/') == std::string::npos && name->size() < 80 && name->ends_with(".png"));
            const auto known = kept.find(*name);
            QVERIFY(known == kept.end() || known->second == bytes);
            kept[*name] = bytes;
        }
        for (const auto& [name, bytes] : kept) QCOMPARE(*readPictureFile(root, name), bytes);
        QCOMPARE(QDir(QString::fromStdString(root)).entryList(QDir::Files | QDir::Hidden).size(),
                 static_cast<qsizetype>(kept.size()));
        // No picture, a folder that cannot be, and a link laid in the way.
        QVERIFY(!keepPictureFile(root, "x", "no picture"));
        QFile file(folder.filePath("file"));
        QVERIFY(file.open(QIODevice::WriteOnly));
        QVERIFY(!keepPictureFile(folder.filePath("file/in").toStdString(), "x", pngHeader(1, 1)));
        QVERIFY(QFile::link(folder.filePath("elsewhere.png"), QString::fromStdString(root) + "/trap.png"));
        QCOMPARE(*keepPictureFile(root, "trap.png", pngHeader(9, 9)), std::string("trap-2.png"));
        QVERIFY(!QFile::exists(folder.filePath("elsewhere.png")));
    }

    void base64IsReadAsTheRfcHasIt() {
        std::mt19937 random(7);
        for (int round = 0; round < 500; ++round) {
            QByteArray bytes;
            for (unsigned i = random() % 40; i > 0; --i) bytes += static_cast<char>(random());
            QCOMPARE(QByteArray::fromStdString(*fromBase64(bytes.toBase64().toStdString())), bytes);
        }
        QCOMPARE(*fromBase64("Zm9v\n Yg=="), std::string("foob"));
        for (const char* broken : {"Zm9*", "Z", "Zg=a", "Zg====", "=Zg="}) QVERIFY2(!fromBase64(broken), broken);
    }

    void whatStaysInTheDatabaseIsComparedByLengthAndDigest() {
        const Value stored = Bytes{"four"};
        QVERIFY(isAsBelieved(stored, Unread{4, 0}));
        QVERIFY(isAsBelieved(stored, Unread{4, digestOf("four")}));
        QVERIFY(!isAsBelieved(stored, Unread{4, digestOf("five")}));
        QVERIFY(!isAsBelieved(stored, Unread{5, 0}));
        QVERIFY(!isAsBelieved(Value(Empty{}), Unread{0, 0}));
        QVERIFY(!isAsBelieved(stored, Value(Empty{})));
        QVERIFY(isAsBelieved(stored, stored));
        QVERIFY(digestOf("") != 0);
    }
};

QTEST_GUILESS_MAIN(PictureTest)
#include "picture_test.moc"
