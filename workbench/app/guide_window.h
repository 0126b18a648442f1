// SPDX-License-Identifier: MIT
#pragma once
// GuideWindow: the pages of docs/guide, as they stand, with their pictures, in a window beside the workbench. Follows
// links between them; what leads elsewhere opens where the system opens it.

#include <QTextBrowser>

#include <vector>

namespace jollyrow {

struct GuidePage {
    QString title, file;
};

/// The pages in their order, the index first. Empty when the guide is not installed.
std::vector<GuidePage> guidePages();

class GuideWindow final : public QTextBrowser {
    Q_OBJECT
  public:
    explicit GuideWindow(QWidget* parent);
    /// A page by its file; the index for an empty one.
    void open(const QString& file);

  protected:
    QVariant loadResource(int type, const QUrl& name) override;
    void doSetSource(const QUrl& url, QTextDocument::ResourceType type) override;
};

}  // namespace jollyrow
