// SPDX-License-Identifier: MIT
// The guide: F1 and Find an action open its pages, every link and picture of them is there, and following them all
// reaches every page.
#include <QtTest>

#include <QRegularExpression>
#include <QTextDocument>

#include <set>

#include "tests/workbench/open_window.h"
#include "workbench/app/guide_window.h"

using namespace jollyrow;

namespace {

/// What a Markdown page links to and shows, without the parts behind '#'.
QStringList targetsOf(const QString& path) {
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly)) return {};
    QString text = QString::fromUtf8(file.readAll());
    text.remove(QRegularExpression(QStringLiteral("```.*?```"), QRegularExpression::DotMatchesEverythingOption));
    text.remove(QRegularExpression(QStringLiteral("`[^`\\n]*`")));
    static const QRegularExpression link(QStringLiteral("\\]\\(([^)#]+)[^)]*\\)"));
    QStringList targets;
    for (auto at = link.globalMatch(text); at.hasNext();) targets << at.next().captured(1);
    return targets;
}

const QString kGuide = QStringLiteral(SOURCE_DIR "/docs/guide/");

}  // namespace

class GuideTest : public QObject {
    Q_OBJECT
  private Q_SLOTS:
    void everyLinkLeadsSomewhere() {
        for (const char* page : {"README.md", "CONTRIBUTING.md", "ARCHITECTURE.md", "CHANGELOG.md", "docs/adding.md",
                                 "docs/recipes.md", "docs/formats/design.md", "docs/formats/rules.md"})
            check(QStringLiteral(SOURCE_DIR "/") + QLatin1String(page));
        QVERIFY(guidePages().size() >= 8);
        for (const GuidePage& page : guidePages()) check(kGuide + page.file);
    }

    void theIndexReachesEveryPage() {
        std::set<QString> reached = {"README.md"}, left = reached;
        while (!left.empty()) {
            const QString page = *left.begin();
            left.erase(left.begin());
            for (const QString& target : targetsOf(kGuide + page))
                if (!target.contains('/') && reached.insert(target).second) left.insert(target);
        }
        for (const GuidePage& page : guidePages()) QVERIFY2(reached.contains(page.file), qPrintable(page.file));
    }

    void f1OpensItAndItsPicturesAreShown() {
        MainWindow window;
        window.resize(1000, 700);
        window.show();
        QVERIFY(QTest::qWaitForWindowExposed(&window));
        QTest::keyClick(&window, Qt::Key_F1);
        auto* guide = window.findChild<GuideWindow*>();
        QVERIFY(guide && guide->isVisible());
        QVERIFY(guide->toPlainText().contains("in the order in which a grid is made"));
        for (const GuidePage& page : guidePages()) {
            guide->open(page.file);
            QVERIFY2(guide->windowTitle().contains(page.title), qPrintable(guide->windowTitle()));
            for (const QString& target : targetsOf(kGuide + page.file)) {
                if (!target.endsWith(".png")) continue;
                const QImage picture =
                    guide->document()->resource(QTextDocument::ImageResource, QUrl(target)).value<QImage>();
                QVERIFY2(!picture.isNull() && picture.width() <= 760, qPrintable(target));
            }
        }
        guide->close();
        QTRY_VERIFY(!window.findChild<GuideWindow*>());
    }

    void aLinkIsFollowed() {
        GuideWindow guide(nullptr);
        guide.open({});
        guide.setSource(guide.source().resolved(QUrl("3-sort.md")));
        QVERIFY(guide.toPlainText().startsWith("Sort"));
        QVERIFY(guide.windowTitle().contains("Sort"));
        QVERIFY(guide.isBackwardAvailable());
    }

  private:
    static void check(const QString& path) {
        QVERIFY2(QFile::exists(path), qPrintable(path));
        for (const QString& target : targetsOf(path)) {
            if (target.startsWith("http")) continue;
            const QString at = QFileInfo(path).absolutePath() + '/' + target;
            QVERIFY2(QFile::exists(at), qPrintable(path + " leads to " + target));
        }
    }
};

QTEST_MAIN(GuideTest)
#include "tst_guide.moc"
