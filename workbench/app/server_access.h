// SPDX-License-Identifier: MIT
#pragma once
// ServerAccess: gets at a database on a server. Asks for its address, for a password when the server wants one, looks
// into the desktop's secret store before and keeps it there by choice.

#include <QObject>
#include <QPointer>
#include <QRect>

#include <functional>
#include <set>
#include <string>

#include "workbench/popovers/server_popover.h"

namespace jollyrow {

class ServerAccess final : public QObject {
    Q_OBJECT
  public:
    explicit ServerAccess(QWidget* window) : QObject(window), window_(window) {}

    using Then = std::function<void(const QString& address)>;
    /// A card under `anchor` that stays until a database is open, and says why none is; then `then`.
    void ask(const QRect& anchor, const Then& then);
    /// After ErrorCode::NeedsPassword: the store's password, or a card that asks for one; then `then` tries again.
    void unlock(const std::string& address, const std::string& said, const QRect& anchor, const Then& then);

  Q_SIGNALS:
    void said(const QString& text, bool isError);

  private:
    void showCard(const QRect& anchor, const QString& address, const QString& asksFor, const Then& then);
    void tryOpen(const QPointer<ServerPopover>& card, const ServerPopover::Entered& entered, const Then& then);
    void wantPassword(const QPointer<ServerPopover>& card, const ServerPopover::Entered& entered, const QString& words,
                      const Then& then);
    void keep(const ServerPopover::Entered& entered);

    QWidget* window_;
    std::set<std::string> tried_;  ///< addresses whose kept password was not taken, or not there
};

}  // namespace jollyrow
