// SPDX-License-Identifier: MIT
// What of an SVG is let through to be drawn.
#include <QtTest>

#include "core/pictures/safe_svg.h"
#include "tests/pictures/bytes.h"

using namespace jollyrow;

namespace {

std::string svg(const std::string& inside, const std::string& before = {}) {
    return before +
           "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' "
           "viewBox='0 0 10 10'>" +
           inside + "</svg>";
}

}  // namespace

class SafeSvgTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void whatDrawsIsKept() {
        const auto safe =
            safeSvg(svg("<g id='a' fill='url( #p )' style='stroke:#123'><path d='M0 0 L1e2 -3.5z'/></g>"
                        "<linearGradient id='p'><stop offset='0' stop-color='red'/></linearGradient>"
                        "<text x='1'>a &lt; b &amp; c</text><use xlink:href='#a'/>",
                        "<?xml version='1.0'?><!DOCTYPE svg PUBLIC '-//W3C//DTD SVG 1.1//EN' "
                        "'http://www.w3.org/Graphics/SVG/1.1/DTD/svg11.dtd'>"));
        QVERIFY2(safe.ok(), safe ? "" : safe.error().message.c_str());
        for (const char* kept : {"viewBox=\"0 0 10 10\"", "id=\"a\"", "url( #p )", "stroke:#123", "M0 0 L1e2 -3.5z",
                                 "stop-color=\"red\"", "a &lt; b &amp; c", "xlink:href=\"#a\""})
            QVERIFY2(safe->find(kept) != std::string::npos, kept);
        QVERIFY(safe->find("DOCTYPE") == std::string::npos);
        // What comes out goes through unchanged.
        QCOMPARE(*safeSvg(*safe), *safe);
    }

    void whatReachesOutIsLeftOut_data() {
        QTest::addColumn<QString>("inside");
        QTest::addColumn<QString>("gone");
        const auto add = [](const char* name, const char* inside, const char* gone) {
            QTest::newRow(name) << inside << gone;
        };
        add("script", "<script>alert(1)</script>", "alert");
        add("script with a prefix", "<x:script xmlns:x='y'>alert(1)</x:script>", "alert");
        add("handler", "<rect onclick='alert(1)'/>", "alert");
        add("handler in capitals", "<rect ONLOAD='alert(1)'/>", "alert");
        add("page", "<foreignObject><iframe src='http://boats'/></foreignObject>", "boats");
        add("file picture", "<image xlink:href='file:///etc/passwd'/>", "passwd");
        add("relative picture", "<image href='other.png'/>", "other");
        add("web picture", "<image xlink:href='http://x/y.png'/>", "y.png");
        add("svg in svg", "<image xlink:href='data:image/svg+xml;base64,PHN2Zy8+'/>", "PHN2Zy8");
        add("no base64", "<image xlink:href='data:image/png,abc'/>", "abc");
        add("use of a file", "<use xlink:href='other.svg#a'/>", "other");
        add("filling from outside", "<rect fill='url(http://x#a)'/>", "http://x#a");
        add("style from outside", "<rect style=\"fill:url('http://x#a')\"/>", "http://x#a");
        add("import", "<style>@import 'http://x'; rect{fill:red}</style>", "import");
        add("font", "<style>@font-face{src:url(http://x)}</style>", "font-face");
        add("escaped words", "<style>rect{fill:u\\72l(http://boats)}</style>", "boats");
        add("base", "<g xml:base='http://x/'><rect/></g>", "base");
        add("animation", "<rect><animate attributeName='x' dur='1s' repeatCount='indefinite'/></rect>", "animate");
        add("set", "<rect><set attributeName='x' to='5'/></rect>", "<set");
        add("dashes", "<path stroke-dasharray='0.000001'/>", "0.000001");
        add("dashes in a style", "<path style='stroke-dasharray:0.000001'/>", "dasharray");
        add("dashes in a sheet", "<style>path{stroke-DashArray:0.000001}</style>", "asharray");
        add("a link away", "<a xlink:href='javascript:alert(1)'><rect/></a>", "javascript");
    }
    void whatReachesOutIsLeftOut() {
        QFETCH(QString, inside);
        QFETCH(QString, gone);
        const auto safe = safeSvg(svg(inside.toStdString() + "<circle r='3'/>"));
        QVERIFY2(safe.ok(), safe ? "" : safe.error().message.c_str());
        QVERIFY2(!QString::fromStdString(*safe).contains(gone, Qt::CaseInsensitive), safe->c_str());
        QVERIFY(safe->find("<circle r=\"3\">") != std::string::npos);  // the rest stands
    }

    void whatWouldNeverEndIsRefused() {
        std::string copies = "<g id='a0'><rect/><rect/></g>";
        for (int i = 1; i < 40; ++i) {
            const std::string before = std::to_string(i - 1);
            copies += "<g id='a" + std::to_string(i) + "'><use xlink:href='#a" + before + "'/><use href='#a" + before +
                      "'/></g>";
        }
        std::string many, deep;
        for (int i = 0; i < 21'000; ++i) many += "<rect/>";
        for (int i = 0; i < 70; ++i) deep = "<g>" + deep + "</g>";
        const std::string entities = "<!DOCTYPE svg [<!ENTITY a 'ha'><!ENTITY b '&a;&a;&a;'>]>";
        for (const std::string& bad :
             {svg(copies), svg("<g id='a'><use href='#a'/></g>"),
              svg("<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/></g>"), svg(many), svg(deep),
              svg("<text>&b;</text>", entities), svg("", "<!DOCTYPE svg [<!ENTITY x SYSTEM 'file:///etc/passwd'>]>"),
              svg("<text>&other;</text>", "<!DOCTYPE svg SYSTEM 'http://x/y.dtd'>"), svg("<path d='M0 0 L1e9 0'/>"),
              svg("<path d='M0 0 L1e999 0'/>"), svg("<style>text{font-size:99999999px}</style>"),
              svg("<rect style='stroke-width:2000000'/>"), svg("") + std::string(kMostSvgBytes, ' ')}) {
            const auto safe = safeSvg(bad);
            QVERIFY2(!safe, bad.substr(0, 200).c_str());
            QCOMPARE(safe.error().code, ErrorCode::Refused);
            QVERIFY(!safe.error().message.empty());
        }
    }

    void whatIsDamagedIsSaid() {
        const std::string whole = svg("<g><path d='M0 0'/><text>words</text></g>");
        for (std::size_t length = 0; length < whole.size(); ++length) QVERIFY(!safeSvg(whole.substr(0, length)));
        for (const char* bad : {"<html/>", "<svg><g></svg>", "<svg a='1' a='2'/>", "<svg>&nbsp;</svg>", "\x01\x02"}) {
            const auto safe = safeSvg(bad);
            QVERIFY2(!safe, bad);
            QVERIFY(!safe.error().message.empty());
        }
    }

    void embeddedPicturesAreBounded() {
        const auto image = [](const std::string& bytes) {
            return "<image width='5' height='5' xlink:href='data:image/png;base64," +
                   QByteArray::fromStdString(bytes).toBase64().toStdString() + "'/>";
        };
        const auto count = [](const std::string& text) {
            return QString::fromStdString(text).count(QStringLiteral("<image"));
        };
        QCOMPARE(count(*safeSvg(svg(image(test::pngHeader(100, 100))))), 1);
        QCOMPARE(count(*safeSvg(svg(image(test::jpegHeader(100, 100))))), 1);
        QCOMPARE(count(*safeSvg(svg(image(test::pngHeader(5000, 5000))))), 0);
        QCOMPARE(count(*safeSvg(svg(image("no picture")))), 0);
        std::string many;
        for (int i = 0; i < 100; ++i) many += image(test::pngHeader(10, 10));
        QCOMPARE(count(*safeSvg(svg(many))), 8);
    }
};

QTEST_GUILESS_MAIN(SafeSvgTest)
#include "safe_svg_test.moc"
