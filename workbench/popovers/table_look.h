// SPDX-License-Identifier: MIT
#pragma once
// TableLook: what a table of a database is, before anything is bound to it: its keys, constraints, columns and first
// records. Read behind; another table asked for meanwhile takes its place.

#include <QWidget>

#include <memory>
#include <string>

#include "core/base/latest.h"
#include "core/base/result.h"
#include "core/base/worker.h"
#include "core/columns/table.h"

class QLabel;

namespace jollyrow {

class Grid;

class TableLook final : public QWidget {
    Q_OBJECT
  public:
    TableLook(std::string databasePath, QWidget* parent);
    ~TableLook() override;
    void look(const std::string& table);
    /// What is said of the table; for tests.
    QString words() const;
    Grid& records() { return *records_; }

  Q_SIGNALS:
    void shown(const QString& table);

  private:
    void show(const std::string& table, const Result<std::shared_ptr<const Table>>& first);

    const std::string path_;
    QLabel* title_;
    QLabel* facts_;
    QLabel* columns_;
    Grid* records_;
    Latest latest_;
    Worker worker_;
};

}  // namespace jollyrow
