// SPDX-License-Identifier: MIT
#include "workbench/app/guide_window.h"

#include <QCoreApplication>
#include <QDesktopServices>
#include <QDir>
#include <QFile>
#include <QImage>
#include <QTextBlock>
#include <QTextList>
#include <QTextStream>

namespace jollyrow {
namespace {

constexpr int kMargin = 28;
constexpr int kTextWidth = 760;
constexpr int kScrollBarRoom = 16;

/// Where the guide stands: installed beside the program, or in the folder that it is built from.
QString guideFolder() {
    const QString program = QCoreApplication::applicationDirPath();
    for (const char* place : {"/../share/doc/jollyrow/guide", "/../../../docs/guide"})
        if (const QString folder = QDir::cleanPath(program + QLatin1String(place));
            QFile::exists(folder + QStringLiteral("/README.md")))
            return folder;
    return {};
}

/// Markdown as the toolkit lays it out stands too tight to be read.
void giveAir(QTextDocument& document, const QColor& codeColour) {
    constexpr int kLinePercent = 135, kParagraphPx = 10, kItemPx = 5, kHeadingPx = 20;
    for (QTextBlock block = document.begin(); block.isValid(); block = block.next()) {
        QTextBlockFormat format = block.blockFormat();
        const bool isCode = format.hasProperty(QTextFormat::BlockCodeFence);
        const bool isPicture = block.text() == QString(QChar::ObjectReplacementCharacter);
        if (!isCode && !isPicture) format.setLineHeight(kLinePercent, QTextBlockFormat::ProportionalHeight);
        if (isCode) format.setBackground(codeColour);
        format.setTopMargin(format.headingLevel() > 1 ? kHeadingPx
                            : isCode                  ? 0
                            : block.textList()        ? kItemPx
                                                      : kParagraphPx);
        QTextCursor(block).setBlockFormat(format);
        if (QTextList* list = block.textList(); list && list->format().style() == QTextListFormat::ListCircle) {
            QTextListFormat dots = list->format();
            dots.setStyle(QTextListFormat::ListDisc);
            list->setFormat(dots);
        }
    }
}

QString titleOf(const QString& path) {
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly | QIODevice::Text)) return {};
    return QTextStream(&file).readLine().remove(0, 2);  // "# Title"
}

}  // namespace

std::vector<GuidePage> guidePages() {
    std::vector<GuidePage> pages;
    const QString folder = guideFolder();
    if (folder.isEmpty()) return pages;
    pages.push_back({titleOf(folder + QStringLiteral("/README.md")), QStringLiteral("README.md")});
    const QDir dir(folder);
    for (const QString& file : dir.entryList({QStringLiteral("[0-9]*.md")}, QDir::Files, QDir::Name))
        pages.push_back({titleOf(dir.filePath(file)), file});
    return pages;
}

GuideWindow::GuideWindow(QWidget* parent) : QTextBrowser(parent) {
    setWindowFlag(Qt::Window);
    setObjectName(QStringLiteral("guide"));
    setAccessibleName(tr("Guide"));
    setFrameShape(QFrame::NoFrame);
    setOpenExternalLinks(false);
    document()->setDocumentMargin(kMargin);
    resize(kTextWidth + 2 * kMargin + kScrollBarRoom, 720);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
}

void GuideWindow::open(const QString& file) {
    setSource(QUrl::fromLocalFile(guideFolder() + u'/' + (file.isEmpty() ? QStringLiteral("README.md") : file)));
    setWindowTitle(tr("Guide – %1").arg(titleOf(source().toLocalFile())));
    show();
    raise();
    activateWindow();
}

void GuideWindow::doSetSource(const QUrl& url, QTextDocument::ResourceType type) {
    const bool isPage = url.isLocalFile() && url.toLocalFile().startsWith(guideFolder());
    if (!isPage && url.isLocalFile() && !url.path().endsWith(QStringLiteral(".md")))
        return void(QDesktopServices::openUrl(url));
    if (!url.isLocalFile() && !url.isRelative()) return void(QDesktopServices::openUrl(url));
    QTextBrowser::doSetSource(url, type);
    giveAir(*document(), palette().color(QPalette::AlternateBase));
    setWindowTitle(tr("Guide – %1").arg(titleOf(url.toLocalFile())));
}

/// Pictures no wider than the text.
QVariant GuideWindow::loadResource(int type, const QUrl& name) {
    const QVariant loaded = QTextBrowser::loadResource(type, name);
    if (type != QTextDocument::ImageResource) return loaded;
    QImage picture;
    if (loaded.userType() == QMetaType::QByteArray)
        picture.loadFromData(loaded.toByteArray());
    else
        picture = loaded.value<QImage>();
    return picture.width() > kTextWidth ? picture.scaledToWidth(kTextWidth, Qt::SmoothTransformation) : picture;
}

}  // namespace jollyrow
