// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_pictures.cpp.
#include "grid/pictures/picture_control.h"

#include <QApplication>
#include <QBuffer>
#include <QClipboard>
#include <QFileDialog>
#include <QSaveFile>
#include <QUrl>

#include "core/pictures/picture_file.h"

namespace jollyrow {
namespace {

constexpr QSize kLookedAt(256, 256);  // a picture is tried at this size before it is taken

QString textOf(std::string_view text) { return QString::fromUtf8(text.data(), static_cast<qsizetype>(text.size())); }

/// The bytes of a picture as they stand there, in the first kind that there is.
std::optional<std::string> bytesIn(const QMimeData& data) {
    for (const PictureKind kind : {PictureKind::Png, PictureKind::Jpeg, PictureKind::Svg})
        if (const QString type = textOf(mediaType(kind)); data.hasFormat(type)) return data.data(type).toStdString();
    return std::nullopt;
}

std::optional<QString> fileIn(const QMimeData& data) {
    if (!data.hasUrls() || data.urls().isEmpty() || !data.urls().front().isLocalFile()) return std::nullopt;
    return data.urls().front().toLocalFile();
}

Result<std::string> asPng(const QImage& image) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    if (!image.save(&buffer, "PNG")) return Error{ErrorCode::InvalidInput, "The picture cannot be made a PNG."};
    return bytes.toStdString();
}

Result<void> written(const std::string& bytes, const QString& path) {
    QSaveFile file(path);
    const auto size = static_cast<qint64>(bytes.size());
    if (file.open(QIODevice::WriteOnly) && file.write(bytes.data(), size) == size && file.commit()) return {};
    return Error{ErrorCode::Io, QObject::tr("%1 cannot be written: %2.").arg(path, file.errorString()).toStdString()};
}

}  // namespace

std::optional<FieldIndex> PictureControl::pictureIn(int column) const {
    const PlannedColumn& planned = context_.planned(column);
    if (!planned.face) return std::nullopt;
    std::optional<FieldIndex> found;
    for (const PlannedPart& part : planned.face->parts) {
        if (part.design.kind != FacePartKind::Picture) continue;
        if (part.field == planned.field) return part.field;
        if (!found) found = part.field;
    }
    return found;
}

bool PictureControl::takes(int column) const {
    const PlannedColumn& planned = context_.planned(column);
    const Type type = context_.schema().field(planned.field).type;
    return context_.canEdit(column) && (type == Type::Binary || type == Type::Text) &&
           pictureIn(column) == planned.field;
}

bool PictureControl::hasPicture(CellPlace place) const {
    const auto field = pictureIn(place.column);
    return field && rows_.isRecord(place.line) && !isEmpty(context_.snapshot().value(rows_.rowAt(place.line), *field));
}

bool PictureControl::open(CellPlace place) {
    if (!rows_.isRecord(place.line) || !(takes(place.column) || hasPicture(place))) return false;
    hideCard();
    if (!panel_) {
        panel_ = new PicturePanel(shelf_, &context_.viewport());
        panel_->setFont(context_.grid().font());
        QObject::connect(panel_, &PicturePanel::chosen, &context_.grid(), [this](PicturePanel::Action a) { act(a); });
        QObject::connect(panel_, &PicturePanel::closed, &context_.grid(), [this] { close(); });
    }
    place_ = place;
    const SourceRow row = rows_.rowAt(place.line);
    opened_ = context_.session().refOf(row);
    const bool has = hasPicture(place);
    has ? panel_->view().show(row, *pictureIn(place.column)) : panel_->view().showNone();
    panel_->open(body_.cellRect(place), context_.look(), takes(place.column), has);
    return true;
}

void PictureControl::close() {
    if (!panel_ || !panel_->isVisible()) return;
    panel_->hide();
    context_.grid().setFocus();
}

void PictureControl::moved() {
    hideCard();
    if (!isOpen()) return;
    const auto row = context_.session().now(opened_);
    if (!row || place_.column >= static_cast<int>(context_.plan().columns.size()) || rows_.rowAt(place_.line) != *row)
        return close();
    if (hasPicture(place_))
        panel_->view().show(*row, *pictureIn(place_.column));
    else
        panel_->view().showNone();
}

void PictureControl::scrolled() {
    hideCard();
    close();
}

void PictureControl::arrived() {
    if (isOpen()) panel_->view().update();
    if (card_ && card_->isVisible()) card_->view().update();
}

void PictureControl::act(PicturePanel::Action action) {
    const CellPlace place = place_;
    if (const auto row = context_.session().now(opened_); !row || rows_.rowAt(place.line) != *row) return close();
    close();
    switch (action) {
        case PicturePanel::Action::Load: return load(place);
        case PicturePanel::Action::Copy: return copy(place);
        case PicturePanel::Action::Save: return save(place);
        case PicturePanel::Action::Empty: return empty(place);
        case PicturePanel::Action::Paste:
            if (!paste(place)) context_.say(Grid::tr("There is no picture on the clipboard."));
            return;
    }
}

bool PictureControl::enlarge(CellPlace place, QPoint position, const PartPresses& presses) {
    hideCard();
    const auto part = presses.partAt(place, position);
    const PlannedColumn& column = context_.planned(place.column);
    if (!part || column.face->parts[*part].design.kind != FacePartKind::Picture ||
        !column.face->parts[*part].design.picture.enlarges || isOpen())
        return false;
    if (!card_) card_ = new PictureCard(shelf_, &context_.grid());
    const QRect cell = body_.cellRect(place);
    cardFor_ = cell;
    card_->setFont(context_.grid().font());
    card_->showBeside(QRect(context_.viewport().mapToGlobal(cell.topLeft()), cell.size()), rows_.rowAt(place.line),
                      *column.face->parts[*part].field, context_.look());
    return true;
}

void PictureControl::hideCard() {
    if (card_) card_->hide();
}

PictureControl::Target PictureControl::targetAt(CellPlace place) const {
    return {context_.session().refOf(rows_.rowAt(place.line)), context_.planned(place.column).design.field};
}

void PictureControl::put(const Target& target, Value value) {
    const auto row = context_.session().now(target.record);
    const auto field = context_.schema().find(target.field);
    const auto column = context_.columnOf(QString::fromStdString(target.field));
    if (!row || !field || !column || !takes(*column))
        return context_.say(Grid::tr("The record is no longer there. The picture was not put in."));
    // What stands there is read first: it comes back by undo.
    if (!std::holds_alternative<Unread>(context_.snapshot().value(*row, *field)))
        return editors_.write({{*row, *field, std::move(value), {}}});
    shelf_.read(*row, *field, [this, target, value = std::move(value)](const Result<std::string>& bytes) {
        const auto at = context_.session().now(target.record);
        const auto now = context_.schema().find(target.field);
        const auto there = context_.columnOf(QString::fromStdString(target.field));
        if (!bytes || !at || !now || !there || !takes(*there))
            return context_.say(bytes ? Grid::tr("The record is no longer there. The picture was not put in.")
                                      : QString::fromStdString(bytes.error().message));
        editors_.write({{*at, *now, value, {}}}, Value(Bytes{*bytes}));
    });
}

void PictureControl::take(const Target& target, const Result<std::string>& bytes) {
    if (!bytes) return context_.say(QString::fromStdString(bytes.error().message));
    shelf_.decode(*bytes, kLookedAt, [this, target, bytes = *bytes](const Result<DecodedPicture>& picture) {
        if (!picture) return context_.say(QString::fromStdString(picture.error().message));
        const auto field = context_.schema().find(target.field);
        if (!field || context_.schema().field(*field).type == Type::Binary) return put(target, Bytes{bytes});
        // Of a column that names files: kept beside the others, and named.
        shelf_.behind(
            [folder = shelf_.folder(), wished = target.file, bytes] { return keepPictureFile(folder, wished, bytes); },
            [this, target](const Result<std::string>& kept) {
                kept ? put(target, *kept) : context_.say(QString::fromStdString(kept.error().message));
            });
    });
}

void PictureControl::empty(CellPlace place) {
    if (takes(place.column) && hasPicture(place)) put(targetAt(place), Empty{});
}

void PictureControl::loadFrom(CellPlace place, const QString& path) {
    if (!takes(place.column) || !rows_.isRecord(place.line)) return;
    readInto(targetAt(place), path);
}

void PictureControl::readInto(const Target& target, const QString& path) {
    shelf_.behind([path = path.toStdString()] { return readChosenPicture(path); },
                  [this, target, path](const Result<std::string>& bytes) {
                      Target named = target;
                      named.file = path.toStdString();
                      take(named, bytes);
                  });
}

void PictureControl::load(CellPlace place) {
    if (!takes(place.column) || !rows_.isRecord(place.line)) return;
    auto* dialog = new QFileDialog(&context_.grid(), Grid::tr("Load a picture"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setFileMode(QFileDialog::ExistingFile);
    dialog->setNameFilter(Grid::tr("Pictures (*.png *.jpg *.jpeg *.svg)"));
    QObject::connect(dialog, &QFileDialog::fileSelected, &context_.grid(),
                     [this, target = targetAt(place)](const QString& path) { readInto(target, path); });
    dialog->open();
}

void PictureControl::copy(CellPlace place) {
    if (!hasPicture(place)) return;
    const SourceRow row = rows_.rowAt(place.line);
    shelf_.read(row, *pictureIn(place.column), [this](const Result<std::string>& bytes) {
        if (!bytes) return context_.say(QString::fromStdString(bytes.error().message));
        const auto kind = pictureKind(*bytes);
        if (!kind) return context_.say(Grid::tr("What stands there is no picture; it was not copied."));
        constexpr QSize kLargest(4096, 4096);
        shelf_.decode(*bytes, kLargest, [this, kind = *kind, bytes = *bytes](const Result<DecodedPicture>& picture) {
            if (!picture) return context_.say(QString::fromStdString(picture.error().message));
            auto* data = new QMimeData;
            data->setData(textOf(mediaType(kind)), QByteArray::fromStdString(bytes));
            data->setImageData(picture->image);
            QApplication::clipboard()->setMimeData(data);
        });
    });
}

void PictureControl::saveTo(CellPlace place, const QString& path) {
    if (!hasPicture(place)) return;
    shelf_.read(rows_.rowAt(place.line), *pictureIn(place.column), [this, path](const Result<std::string>& bytes) {
        if (!bytes) return context_.say(QString::fromStdString(bytes.error().message));
        shelf_.behind([path, bytes = *bytes] { return written(bytes, path); },
                      [this](const Result<void>& done) {
                          if (!done) context_.say(QString::fromStdString(done.error().message));
                      });
    });
}

void PictureControl::save(CellPlace place) {
    if (!hasPicture(place)) return;
    auto* dialog = new QFileDialog(&context_.grid(), Grid::tr("Save the picture"));
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setAcceptMode(QFileDialog::AcceptSave);
    const ShownPicture known =
        shelf_.shown({rows_.rowAt(place.line), *pictureIn(place.column), QSize(kLookedAt), false});
    dialog->setDefaultSuffix(textOf(name(known.kind)).toLower());
    const RowRef record = context_.session().refOf(rows_.rowAt(place.line));
    QObject::connect(dialog, &QFileDialog::fileSelected, &context_.grid(), [this, place, record](const QString& path) {
        const auto row = context_.session().now(record);
        if (!row || rows_.rowAt(place.line) != *row)
            return context_.say(Grid::tr("The record is no longer there. Nothing was saved."));
        saveTo(place, path);
    });
    dialog->open();
}

bool PictureControl::takeData(CellPlace place, const QMimeData& data) {
    if (!takes(place.column) || !rows_.isRecord(place.line)) return false;
    if (auto bytes = bytesIn(data)) return take(targetAt(place), std::move(*bytes)), true;
    if (const auto path = fileIn(data)) return loadFrom(place, *path), true;
    if (!data.hasImage()) return false;
    const auto image = data.imageData().value<QImage>();
    if (image.isNull()) return false;
    shelf_.behind([image] { return asPng(image); },
                  [this, target = targetAt(place)](const Result<std::string>& bytes) { take(target, bytes); });
    return true;
}

bool PictureControl::paste(CellPlace place) {
    const QMimeData* data = QApplication::clipboard()->mimeData();
    return data && takeData(place, *data);
}

bool PictureControl::mayTake(const QMimeData& data) const {
    if (!data.hasImage() && !fileIn(data) && !bytesIn(data)) return false;
    for (int column = 0; column < static_cast<int>(context_.plan().columns.size()); ++column)
        if (takes(column)) return true;
    return false;
}

bool PictureControl::accepts(const QMimeData& data, std::optional<CellPlace> place) const {
    return place && rows_.isRecord(place->line) && takes(place->column) && mayTake(data);
}

void PictureControl::drop(CellPlace place, const QMimeData& data) { takeData(place, data); }

}  // namespace jollyrow
