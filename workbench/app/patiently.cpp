// SPDX-License-Identifier: MIT
#include "workbench/app/patiently.h"

#include <QApplication>
#include <QDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QTimer>

#include "workbench/app/look.h"

namespace jollyrow {
namespace {

constexpr int kShownAfterMs = 400;

/// What is waited for, in the middle of the window, and a way out.
class WaitingCard final : public QDialog {
    Q_DECLARE_TR_FUNCTIONS(WaitingCard)
  public:
    WaitingCard(const QString& doing, const Cancel& cancel, QWidget* window) : QDialog(window) {
        setWindowTitle(doing);
        setWindowModality(Qt::ApplicationModal);
        auto* row = new QHBoxLayout(this);
        row->setContentsMargins(20, 16, 16, 16);
        row->setSpacing(24);
        auto* words = new QLabel(doing + QStringLiteral("…"), this);
        words->setTextFormat(Qt::PlainText);
        words->setFont(sized(13));
        row->addWidget(words, 1);
        auto* stop = new QPushButton(tr("Stop"), this);
        row->addWidget(stop);
        connect(stop, &QPushButton::clicked, this, &QDialog::reject);
        connect(this, &QDialog::rejected, this, [stop, words, cancel] {  // Escape, too
            cancel.request();
            stop->setEnabled(false);
            words->setText(tr("Stopping…"));
        });
    }
    // It goes when what it stands for has ended.
    void reject() override { Q_EMIT rejected(); }
};

}  // namespace

Post Meanwhile::post() {
    return [this](std::function<void()> call) {
        QMetaObject::invokeMethod(
            &loop_,
            [this, call = std::move(call)] {
                call();
                // Queued: it may have come before exec().
                QMetaObject::invokeMethod(&loop_, &QEventLoop::quit, Qt::QueuedConnection);
            },
            Qt::QueuedConnection);
    };
}

void Meanwhile::wait() {
    QTimer later;
    later.setSingleShot(true);
    bool isLong = false;
    QObject::connect(&later, &QTimer::timeout, &loop_, [&] {
        isLong = true;
        loop_.quit();
    });
    later.start(kShownAfterMs);
    loop_.exec(QEventLoop::ExcludeUserInputEvents);
    if (!isLong) return;
    WaitingCard card(doing_, cancel_, QApplication::activeWindow());
    card.show();
    loop_.exec();
}

}  // namespace jollyrow
