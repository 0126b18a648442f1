// SPDX-License-Identifier: MIT
#pragma once
// What tests of editing in a window do again and again: choose a cell, type into it, look into the database.

#include <QtTest>
#include <QtWidgets>

#include "tests/grid/grid_fixture.h"
#include "tests/stored_text.h"

namespace jollyrow {

class WindowHelpers {
  public:
    Grid& grid() { return fixture_.grid; }
    QWidget* viewport() { return fixture_.viewport(); }
    Design design() const { return fixture_.design; }
    std::string databasePath() const { return fixture_.path.toStdString(); }
    bool open() { return fixture_.open(); }
    bool open(const Design& design) {
        fixture_.design = design;
        return fixture_.open();
    }
    QString text(std::int64_t line, const char* field) { return fixture_.text(line, field); }
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = {}) { fixture_.key(key, modifiers); }
    void choose(std::int64_t line, const char* field) {
        grid().selection().showLine(line);
        grid().selection().showColumn(field);
        fixture_.click(grid().places().cell(line, field).center());
    }
    std::int64_t lineWhere(const char* field, const QString& value) {
        for (std::int64_t line = 0; line < grid().lineCount(); ++line)
            if (text(line, field) == value) return line;
        return -1;
    }
    QLineEdit* entry() {
        for (QLineEdit* line : viewport()->findChildren<QLineEdit*>(QStringLiteral("cellEntry")))
            if (line->isVisibleTo(&grid())) return line;
        return nullptr;
    }
    /// Into the open editor, over what stands there.
    void enter(const QString& words, Qt::Key leave = Qt::Key_Return) {
        QVERIFY(entry());
        entry()->selectAll();
        QTest::keyClicks(entry(), words);
        QTest::keyClick(entry(), leave);
    }
    /// Into the current cell; leaves to the right, so that the record stays.
    void edit(const QString& words) {
        key(Qt::Key_F2);
        enter(words, Qt::Key_Tab);
        if (entry()) QTest::keyClick(entry(), Qt::Key_Escape);
    }
    /// Into a column of the current record. A look-up needs a moment for its list; "" turns a yes or no over.
    void type(const char* field, const QString& words) {
        choose(grid().selection().currentCell()->line, field);
        if (words.isEmpty()) return key(Qt::Key_Space);
        key(Qt::Key_F2);
        QTRY_VERIFY(entry());
        entry()->selectAll();
        QTest::keyClicks(entry(), words);
        QTest::qWait(120);
        QTest::keyClick(entry(), Qt::Key_Tab);
        QTRY_VERIFY(!entry() || entry()->text() != words);
        if (entry()) QTest::keyClick(entry(), Qt::Key_Escape);
    }
    QPushButton* link(const QString& words) {
        for (QPushButton* button : viewport()->findChildren<QPushButton*>())
            if (button->isVisibleTo(&grid()) && button->text() == words) return button;
        return nullptr;
    }
    /// What stands above the links of a question.
    QString question() {
        const auto* strip = viewport()->findChild<QWidget*>(QStringLiteral("recordQuestion"));
        const auto* label = strip ? strip->findChild<QLabel*>() : nullptr;
        return label ? label->text() : QString();
    }
    /// As another process would: on a connection of its own.
    void outside(const char* sql) {
        sqlite3* other = connection();
        char* message = nullptr;
        if (sqlite3_exec(other, sql, nullptr, nullptr, &message) != SQLITE_OK) qFatal("%s", message);
        sqlite3_close(other);
    }
    /// Any text, whatever is in it.
    void storeNotes(int number, const QString& notes) {
        sqlite3* other = connection();
        sqlite3_stmt* statement = nullptr;
        sqlite3_prepare_v2(other, "UPDATE jobs SET notes = ? WHERE number = ?", -1, &statement, nullptr);
        const QByteArray bytes = notes.toUtf8();
        sqlite3_bind_text(statement, 1, bytes.constData(), static_cast<int>(bytes.size()), SQLITE_TRANSIENT);
        sqlite3_bind_int(statement, 2, number);
        sqlite3_step(statement);
        sqlite3_finalize(statement);
        sqlite3_close(other);
    }
    QString stored(const char* sql) {
        sqlite3* other = connection();
        const QString out = test::storedText(other, sql);
        sqlite3_close(other);
        return out;
    }

  private:
    sqlite3* connection() {
        sqlite3* other = nullptr;
        sqlite3_open(fixture_.path.toLocal8Bit().constData(), &other);
        sqlite3_busy_timeout(other, 5000);
        return other;
    }
    GridFixture fixture_;
};

}  // namespace jollyrow
