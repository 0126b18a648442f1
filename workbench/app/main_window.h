// SPDX-License-Identifier: MIT
#pragma once
// MainWindow: assembles the screens and carries the document between them.

#include <QPointer>
#include <QWidget>

#include "workbench/app/document.h"
#include "workbench/app/guide_window.h"
#include "workbench/app/settings.h"

class QStackedWidget;

namespace jollyrow {

class ActionFinder;
class Actions;
class BuildPage;
class CommandRow;
class ServerAccess;
class StartPage;
class StatusLine;
class TryPage;

class MainWindow final : public QWidget {
    Q_OBJECT
  public:
    /// Makes the window no larger than the screen has room, and moves it inside. Before it is shown.
    void fitToScreen();
    /// Opens the card of what is wrong with the design.
    void showFindings();
    explicit MainWindow(QWidget* parent = nullptr);
    /// A design, or a database (asks for the table when it has several).
    void openPath(const QString& path);
    /// Makes the boatyard where the user's data lives, if it is not there, and opens its design.
    void openDemo();
    bool save();
    bool saveAs();
    /// Asks about unsaved changes; true when it is fine to go on.
    bool mayLeave();
    enum class Screen { Build, Try };
    void showScreen(Screen screen);
    void showStart();
    void openFinder();
    /// A page of the guide by its file; its index for an empty one.
    void openGuide(const QString& file);

    Document& document() { return document_; }
    BuildPage& buildPage() { return *build_; }
    TryPage& tryPage() { return *try_; }
    StartPage& startPage() { return *start_; }

  protected:
    void closeEvent(QCloseEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

  private:
    void connectStart();
    void connectBuild();
    void addActions();
    void addDocumentActions();
    void addStationActions();
    void addFilterActions();
    void addColumnActions();
    void addRecordActions();
    void addWindowActions();
    bool isBuilding() const;
    void openServer();
    /// Where a card about a server belongs.
    QRect serverAnchor() const;
    void chooseTable(const QString& path);
    void report(const Result<void>& result, const QString& path);
    void refreshStatus();
    void say(const QString& text, bool isError);
    void toggleTheme();

    Document document_;
    Settings settings_;
    Actions* actions_;
    CommandRow* commandRow_;
    QStackedWidget* pages_;
    StartPage* start_;
    BuildPage* build_;
    TryPage* try_;
    StatusLine* status_;
    ServerAccess* servers_;
    QPointer<ActionFinder> finder_;
    QPointer<GuideWindow> guide_;
};

}  // namespace jollyrow
