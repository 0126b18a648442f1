// SPDX-License-Identifier: MIT
// Covered by tests/workbench/tst_server.cpp.
#include "workbench/app/server_access.h"

#include <QTimer>

#include "core/sources/credentials.h"
#include "core/sources/source.h"
#include "workbench/app/document.h"
#include "workbench/app/secret_store.h"

namespace jollyrow {

void ServerAccess::ask(const QRect& anchor, const Then& then) { showCard(anchor, {}, {}, then); }

void ServerAccess::unlock(const std::string& address, const std::string& said, const QRect& anchor, const Then& then) {
    forgetPassword(address);
    const QString shown = QString::fromStdString(address), words = QString::fromStdString(said);
    if (!tried_.insert(address).second) return showCard(anchor, shown, words, then);
    secretStore().read(
        shown, [this, self = QPointer(this), address, shown, words, anchor, then](const std::optional<QString>& found) {
            if (!self) return;
            if (!found) return showCard(anchor, shown, words, then);
            setPassword(address, found->toStdString());
            then(shown);
        });
}

void ServerAccess::showCard(const QRect& anchor, const QString& address, const QString& asksFor, const Then& then) {
    auto* card = new ServerPopover(window_, address);
    // Behind the key or click that chose it: connecting may take a while, and the card may be gone then.
    connect(card, &ServerPopover::chosen, this, [this, card, then](const ServerPopover::Entered& entered) {
        QTimer::singleShot(0, this, [this, card = QPointer(card), entered, then] { tryOpen(card, entered, then); });
    });
    card->openUnder(anchor, 460);
    if (!asksFor.isEmpty()) card->askPassword(asksFor);
}

void ServerAccess::tryOpen(const QPointer<ServerPopover>& card, const ServerPopover::Entered& entered,
                           const Then& then) {
    if (!card) return;
    const std::string address = entered.address.toStdString();
    if (!entered.password.isEmpty()) setPassword(address, entered.password.toStdString());
    auto source = openSource(address);
    auto tables = source ? tablesOf(**source, entered.address) : Result<std::vector<TableSummary>>(source.error());
    if (!card) return;
    const QString problem = tables ? QString() : QString::fromStdString(tables.error().message);
    if (!tables && tables.error().code == ErrorCode::NeedsPassword) return wantPassword(card, entered, problem, then);
    if (!tables) return card->showProblem(problem);
    if (tables->empty()) return card->showProblem(tr("This database has no tables that you may read."));
    keep(entered);
    tried_.erase(address);
    card->close();
    then(entered.address);
}

void ServerAccess::wantPassword(const QPointer<ServerPopover>& card, const ServerPopover::Entered& entered,
                                const QString& words, const Then& then) {
    forgetPassword(entered.address.toStdString());
    if (!entered.password.isEmpty() || !tried_.insert(entered.address.toStdString()).second)
        return card->askPassword(words);
    secretStore().read(entered.address,
                       [this, self = QPointer(this), card, entered, words, then](const std::optional<QString>& found) {
                           if (!self || !card) return;
                           if (!found) return card->askPassword(words);
                           tryOpen(card, {entered.address, *found, false}, then);
                       });
}

void ServerAccess::keep(const ServerPopover::Entered& entered) {
    if (!entered.isKept || entered.password.isEmpty()) return;
    secretStore().write(entered.address, entered.password, [this, self = QPointer(this)](const QString& why) {
        if (self && !why.isEmpty())
            Q_EMIT said(tr("The password is not kept, and will be asked for again: %1").arg(why), true);
    });
}

}  // namespace jollyrow
