// SPDX-License-Identifier: MIT
#include "workbench/app/start_page.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QVBoxLayout>

#include <cmath>

#include "core/base/source_address.h"
#include "workbench/app/icons.h"
#include "workbench/app/look.h"

namespace jollyrow {
namespace {

/// A wide button: icon, what it does, what it is for.
class Choice final : public QAbstractButton {
  public:
    Choice(Icon icon, const QString& title, const QString& text, bool primary, QWidget* parent)
        : QAbstractButton(parent), icon_(icon), title_(title), detail_(text), primary_(primary) {
        setAccessibleName(title);
        setAccessibleDescription(text);
        setCursor(Qt::PointingHandCursor);
        setFixedHeight(scaled(64));
        setMinimumWidth(scaled(430));
        setFocusPolicy(Qt::StrongFocus);
        setAttribute(Qt::WA_Hover);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        const Tokens& t = look();
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const bool hot = underMouse() || hasFocus();
        painter.setPen(QPen(hasFocus() ? t.teal : hot ? t.strongEdge : t.hair, hasFocus() ? 1.6 : 1));
        painter.setBrush(primary_ ? t.tealPale : hot ? t.hoverRow : t.paper);
        painter.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 8, 8);
        if (icon_ == Icon::AppMark)
            drawAppMark(painter, QRectF(18, 20, 25, 25), t.dark);
        else
            drawIcon(painter, icon_, QRectF(20, 21, 22, 22), t.tealText);
        painter.setFont(sized(13, QFont::DemiBold));
        painter.setPen(t.ink);
        painter.drawText(QRect(60, 11, width() - 70, 22), Qt::AlignLeft | Qt::AlignVCenter, title_);
        painter.setFont(sized(12));
        painter.setPen(t.ink2);
        painter.drawText(QRect(60, 32, width() - 70, 20), Qt::AlignLeft | Qt::AlignVCenter, detail_);
    }

  private:
    Icon icon_;
    QString title_, detail_;
    bool primary_;
};

}  // namespace

StartPage::StartPage(QWidget* parent)
    : QWidget(parent),
      recent_(new QVBoxLayout),
      problem_(new QLabel(this)),
      recentTitle_(new QLabel(tr("Recent"), this)) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    outer->addStretch(3);
    auto* middle = new QHBoxLayout;
    middle->addStretch(2);
    auto* left = new QVBoxLayout;
    left->setSpacing(10);
    auto* title = new QLabel(tr("Jolly Row"), this);
    title->setFont(sized(30, QFont::DemiBold));
    auto* line = new QLabel(tr("Design a data grid on your own records.\nTake it home into your program."), this);
    line->setFont(sized(14));
    line->setForegroundRole(QPalette::PlaceholderText);
    left->addWidget(title);
    left->addWidget(line);
    left->addSpacing(14);
    auto* demo = new Choice(Icon::AppMark, tr("Try it on the boatyard"),
                            tr("Kelpie Quay: made-up vessels, berths and 5 000 jobs"), true, this);
    auto* database = new Choice(Icon::Table, tr("Open a database…"),
                                tr("an SQLite file; choose a table and design on its records"), false, this);
    auto* design =
        new Choice(Icon::File, tr("Open a design…"), tr("a .jrow file, with the database it was made on"), false, this);
    auto* server = new Choice(Icon::Server, tr("Open a database on a server…"),
                              tr("PostgreSQL, by its address; saved into as you edit"), false, this);
    server_ = server;
    for (Choice* choice : {demo, database, server, design}) left->addWidget(choice);
    problem_->setWordWrap(true);
    problem_->setMaximumWidth(scaled(430));
    problem_->setTextFormat(Qt::PlainText);
    problem_->hide();
    left->addWidget(problem_);
    middle->addLayout(left);
    middle->addSpacing(70);
    auto* right = new QVBoxLayout;
    right->setSpacing(2);
    recentTitle_->setFont(sized(12, QFont::DemiBold));
    right->addSpacing(102);
    right->addWidget(recentTitle_);
    right->addSpacing(4);
    right->addLayout(recent_);
    right->addStretch();
    middle->addLayout(right);
    middle->addStretch(2);
    outer->addLayout(middle);
    outer->addStretch(4);
    connect(demo, &QAbstractButton::clicked, this, &StartPage::openDemo);
    connect(database, &QAbstractButton::clicked, this, &StartPage::openDatabase);
    connect(server, &QAbstractButton::clicked, this, &StartPage::openServer);
    connect(design, &QAbstractButton::clicked, this, &StartPage::openDesign);
    setRecent({});
}

void StartPage::setRecent(const QStringList& paths) {
    while (QLayoutItem* item = recent_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    recentTitle_->setVisible(!paths.isEmpty());
    for (const QString& path : paths) {
        auto* button =
            new QPushButton(makeIcon(path.endsWith(QLatin1String(".jrow")) ? Icon::File : Icon::Table, look().ink2),
                            QString::fromStdString(sourceNameOf(path.toStdString())), this);
        button->setStyleSheet(
            QStringLiteral("QPushButton{text-align:left;border:1px solid "
                           "transparent;background:transparent;padding:5px 8px}QPushButton:hover{background:%1}")
                .arg(look().hoverRow.name()));
        button->setToolTip(path);
        button->setMinimumWidth(scaled(220));
        connect(button, &QPushButton::clicked, this, [this, path] { Q_EMIT openPath(path); });
        recent_->addWidget(button);
    }
}

void StartPage::showProblem(const QString& message) {
    problem_->setStyleSheet(QStringLiteral("color:%1").arg(look().buoyText.name()));
    problem_->setText(message);
    problem_->setVisible(!message.isEmpty());
}

/// A quiet current along the foot of the page.
void StartPage::paintEvent(QPaintEvent*) {
    const Tokens& t = look();
    QPainter painter(this);
    painter.fillRect(rect(), t.page);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    for (int layer = 0; layer < 3; ++layer) {
        QColor colour = t.currentChannel;
        colour.setAlphaF(t.dark ? 0.25F : 0.30F);
        QPainterPath wave(QPointF(0, height()));
        const double level = height() - 108.0 + layer * 30;
        for (int x = 0; x <= width() + 8; x += 8)
            wave.lineTo(x, level + 10 * std::sin(x / (150.0 + layer * 35) + layer * 1.7));
        wave.lineTo(width(), height());
        wave.closeSubpath();
        painter.setBrush(colour);
        painter.drawPath(wave);
    }
}

}  // namespace jollyrow
