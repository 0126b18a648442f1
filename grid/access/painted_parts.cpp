// SPDX-License-Identifier: MIT
// Covered by tests/workbench/tst_painted_parts.cpp through QAccessible.
#include "grid/access/painted_parts.h"

#include <QAccessibleWidget>
#include <QPointer>
#include <QWidget>

#include <map>

namespace jollyrow {
namespace {

const PaintedParts* partsOf(const QObject* object) { return dynamic_cast<const PaintedParts*>(object); }

class PartAccessible final : public QAccessibleInterface, public QAccessibleActionInterface {
  public:
    PartAccessible(QWidget* widget, int index) : widget_(widget), index_(index) {}
    bool isValid() const override { return widget_ && index_ < parts().partCount(); }
    QObject* object() const override { return nullptr; }
    QWindow* window() const override { return widget_ ? widget_->window()->windowHandle() : nullptr; }
    QAccessibleInterface* parent() const override {
        return widget_ ? QAccessible::queryAccessibleInterface(widget_.data()) : nullptr;
    }
    QAccessibleInterface* child(int) const override { return nullptr; }
    int childCount() const override { return 0; }
    int indexOfChild(const QAccessibleInterface*) const override { return -1; }
    QAccessibleInterface* childAt(int, int) const override { return nullptr; }
    QString text(QAccessible::Text kind) const override {
        if (!isValid()) return {};
        const PaintedPart part = parts().part(index_);
        return kind == QAccessible::Name ? part.name : kind == QAccessible::Description ? part.description : QString();
    }
    void setText(QAccessible::Text, const QString&) override {}
    QRect rect() const override {
        if (!isValid()) return {};
        const QRect place = parts().part(index_).rect;
        return {widget_->mapToGlobal(place.topLeft()), place.size()};
    }
    QAccessible::Role role() const override {
        return isValid() && parts().part(index_).isCheckable ? QAccessible::CheckBox : QAccessible::Button;
    }
    QAccessible::State state() const override {
        QAccessible::State state;
        if (!isValid()) {
            state.invalid = true;
            return state;
        }
        const PaintedPart part = parts().part(index_);
        state.focusable = true;
        state.focused = part.hasFocus;
        state.checkable = part.isCheckable;
        state.checked = part.isChecked;
        state.disabled = !widget_->isEnabled();
        state.invisible = !widget_->isVisible() || part.rect.isEmpty();
        return state;
    }
    void* interface_cast(QAccessible::InterfaceType type) override {
        return type == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this) : nullptr;
    }
    QStringList actionNames() const override { return {pressAction()}; }
    void doAction(const QString& action) override {
        if (action == pressAction() && isValid() && widget_->isEnabled())
            dynamic_cast<PaintedParts*>(widget_.data())->pressPart(index_);
    }
    QStringList keyBindingsForAction(const QString&) const override { return {}; }

  private:
    const PaintedParts& parts() const { return *partsOf(widget_.data()); }
    QPointer<QWidget> widget_;
    int index_;
};

class PartsAccessible final : public QAccessibleWidget {
  public:
    explicit PartsAccessible(QWidget* widget) : QAccessibleWidget(widget, QAccessible::ToolBar) {}
    ~PartsAccessible() override {
        for (const auto& [index, id] : made_) QAccessible::deleteAccessibleInterface(id);
    }
    int childCount() const override { return QAccessibleWidget::childCount() + partCount(); }
    QAccessibleInterface* child(int index) const override {
        const int at = index - QAccessibleWidget::childCount();
        if (at < 0) return QAccessibleWidget::child(index);
        if (at >= partCount()) return nullptr;
        const auto known = made_.find(at);
        if (known != made_.end()) return QAccessible::accessibleInterface(known->second);
        auto* part = new PartAccessible(widget(), at);
        made_[at] = QAccessible::registerAccessibleInterface(part);
        return part;
    }
    int indexOfChild(const QAccessibleInterface* child) const override {
        for (const auto& [index, id] : made_)
            if (QAccessible::accessibleInterface(id) == child) return QAccessibleWidget::childCount() + index;
        return QAccessibleWidget::indexOfChild(child);
    }
    QAccessibleInterface* childAt(int x, int y) const override {
        const QPoint at = widget()->mapFromGlobal(QPoint(x, y));
        for (int i = 0; i < partCount(); ++i)
            if (parts()->part(i).rect.contains(at)) return child(QAccessibleWidget::childCount() + i);
        return QAccessibleWidget::childAt(x, y);
    }
    QAccessibleInterface* focusChild() const override {
        for (int i = 0; i < partCount(); ++i)
            if (parts()->part(i).hasFocus) return child(QAccessibleWidget::childCount() + i);
        return QAccessibleWidget::focusChild();
    }

  private:
    const PaintedParts* parts() const { return partsOf(object()); }
    int partCount() const { return parts() ? parts()->partCount() : 0; }
    mutable std::map<int, QAccessible::Id> made_;  ///< by part: the toolkit's identity of it holds
};

QAccessibleInterface* partsFactory(const QString&, QObject* object) {
    auto* widget = qobject_cast<QWidget*>(object);
    return widget && partsOf(object) ? new PartsAccessible(widget) : nullptr;
}

}  // namespace

void installPaintedParts() {
    static const bool installed = [] {
        QAccessible::installFactory(partsFactory);
        return true;
    }();
    Q_UNUSED(installed);
}

void tellPartFocus(QWidget& widget, int index) {
    if (!QAccessible::isActive() || !widget.hasFocus()) return;
    auto* whole = QAccessible::queryAccessibleInterface(&widget);
    const int own = whole ? whole->childCount() - dynamic_cast<PaintedParts&>(widget).partCount() : 0;
    QAccessibleEvent event(&widget, QAccessible::Focus);
    event.setChild(own + index);
    QAccessible::updateAccessibility(&event);
}

}  // namespace jollyrow
