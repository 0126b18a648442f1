// SPDX-License-Identifier: MIT
// Covered by tests/grid/tst_pictures.cpp.
#include "grid/pictures/picture_shelf.h"

#include <QApplication>
#include <QPainter>
#include <QTimer>

#include <filesystem>

#include "core/pictures/picture_file.h"

namespace jollyrow {
namespace {

constexpr std::size_t kMostWaiting = 200;   // pictures asked for; more were scrolled past
constexpr std::size_t kMostKnown = 20'000;  // places whose digest is kept, twice
constexpr std::uint64_t kNothingRead = 0;

QImage withRoundCorners(const QImage& image, qreal radius) {
    QImage out(image.size(), QImage::Format_ARGB32_Premultiplied);
    out.fill(Qt::transparent);
    QPainter painter(&out);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setBrush(image);
    painter.setPen(Qt::NoPen);
    painter.drawRoundedRect(QRectF(out.rect()), radius, radius);
    return out;
}

}  // namespace

PictureShelf::PictureShelf(Session& session, Post post, std::function<void()> arrived)
    : session_(session),
      post_([alive = std::weak_ptr(alive_), post = std::move(post)](std::function<void()> call) {
          post([alive, call = std::move(call)] {
              if (!alive.expired()) call();
          });
      }),
      arrived_(std::move(arrived)),
      worker_(kMostWaiting) {}

PictureShelf::~PictureShelf() {
    worker_.stop();
    aside_.finish();  // a picture that is being saved out
}

/// Fields are counted anew when others are read, and their numbers name others; file names mean others in another
/// folder.
void PictureShelf::forgetOthers() {
    const std::shared_ptr<const Table>& now = session_.snapshot()->table;
    const std::string& folder = session_.design().source.pictures;
    if (!table_.owner_before(now) && !now.owner_before(table_) && folder == folder_) return;
    table_ = now;
    std::vector<std::string> fields;
    for (const FieldSchema& field : now->schema.fields) fields.push_back(field.name);
    if (fields == fields_ && folder == folder_) return;
    fields_ = std::move(fields);
    folder_ = folder;
    youngKnown_.clear();
    oldKnown_.clear();
    ++generation_;
}

PictureShelf::Known& PictureShelf::known(Place place) {
    if (const auto young = youngKnown_.find(place); young != youngKnown_.end()) return young->second;
    if (youngKnown_.size() >= kMostKnown) oldKnown_ = std::exchange(youngKnown_, {});
    auto old = oldKnown_.extract(place);
    return old ? youngKnown_.insert(std::move(old)).position->second : youngKnown_[place];
}

const QImage* PictureShelf::find(const Key& key) {
    if (const auto young = young_.kept.find(key); young != young_.kept.end()) return &young->second;
    const auto old = old_.kept.find(key);
    if (old == old_.kept.end()) return nullptr;
    QImage image = std::move(old->second);
    old_.bytes -= static_cast<std::size_t>(image.sizeInBytes());
    old_.kept.erase(old);
    keep(key, std::move(image));
    return &young_.kept.find(key)->second;
}

void PictureShelf::keep(const Key& key, QImage image) {
    const auto bytes = static_cast<std::size_t>(image.sizeInBytes());
    if (young_.bytes + bytes > most_ / 2) old_ = std::exchange(young_, {});
    const auto [at, isNew] = young_.kept.try_emplace(key, std::move(image));
    if (isNew) young_.bytes += bytes;
}

ShownPicture PictureShelf::shown(const PictureWish& wish) {
    forgetOthers();
    Known& about = known(placeOf(wish.row, wish.field));
    noteTyped(wish, about);
    ShownPicture out;
    out.natural = about.natural;
    out.kind = about.kind;
    out.bytes = about.bytes;
    const QImage* image = nullptr;
    if (about.digest != kNothingRead && about.why.empty())
        image = find({about.digest, wish.box.width(), wish.box.height(), wish.fills});
    if (!about.why.empty()) {
        out.state = ShownPicture::State::Failed;
        out.why = about.why;
    } else if (image) {
        out.state = ShownPicture::State::There;
        out.image = *image;
    }
    const bool isSettled = (image || (!about.why.empty() && !about.isPassing)) && !about.isStale;
    if (!isSettled && !about.isAsked) ask(wish, about);
    return out;
}

/// What is known is of another picture once something else was typed. Pictures are large: they are looked through only
/// when some edit has been made.
void PictureShelf::noteTyped(const PictureWish& wish, Known& about) {
    const std::shared_ptr<const Edits>& edits = session_.snapshot()->edits;
    if (edits != edits_) {
        edits_ = edits;
        ++editsNumber_;
    }
    if (about.editsSeen == editsNumber_) return;
    const CellEdit* edit = edits->find(wish.row, wish.field);
    const auto* bytes = edit ? std::get_if<Bytes>(&edit->value) : nullptr;
    const auto* named = edit ? std::get_if<std::string>(&edit->value) : nullptr;
    const std::uint64_t typed = bytes ? digestOf(bytes->data) : named ? digestOf(*named) : 0;
    if (typed != about.typed && !(bytes && typed == about.digest)) about = {};
    about.typed = typed;
    about.editsSeen = editsNumber_;
}

std::string PictureShelf::folder() const {
    std::filesystem::path folder = std::filesystem::path(session_.sourcePath()).parent_path();
    if (folder.empty()) folder = ".";
    return (folder / session_.design().source.pictures).string();
}

std::function<Result<std::string>()> PictureShelf::bytesOf(SourceRow row, FieldIndex field) const {
    auto reader = session_.records().bytesReader(row, field);
    return [reader = std::move(reader), folder = folder()]() -> Result<std::string> {
        auto value = reader();
        if (!value) return value.error();
        if (auto* bytes = std::get_if<Bytes>(&*value)) return std::move(bytes->data);
        if (const auto* named = std::get_if<std::string>(&*value)) return readPictureFile(folder, *named);
        return Error{ErrorCode::NotFound, "There is no picture."};
    };
}

void PictureShelf::ask(const PictureWish& wish, Known& about) {
    about.isAsked = true;
    ++waiting_;
    const Place place = placeOf(wish.row, wish.field);
    const std::uint32_t epoch = session_.snapshot()->epoch;
    worker_.run({[this, post = post_, wish, epoch, typed = about.typed, generation = generation_,
                  bytesOf = bytesOf(wish.row, wish.field)] {
                     Answer answer;
                     const auto bytes = bytesOf();
                     if (bytes) {
                         answer.digest = digestOf(*bytes);
                         answer.bytes = bytes->size();
                         answer.picture = decodePicture(*bytes, wish.box, wish.fills);
                         if (answer.picture && wish.corner > 0)
                             answer.picture->image = withRoundCorners(answer.picture->image, wish.corner);
                     } else {
                         answer.picture = bytes.error();
                     }
                     post([this, wish, epoch, typed, generation, answer = std::move(answer)] {
                         --waiting_;
                         if (generation == generation_) take(wish, epoch, typed, answer);
                     });
                 },
                 [this, place] {
                     --waiting_;
                     known(place).isAsked = false;
                 }});
}

void PictureShelf::take(const PictureWish& wish, std::uint32_t epoch, std::uint64_t typed, const Answer& answer) {
    if (epoch != session_.snapshot()->epoch) return;  // moveRows() lets it be asked for again
    Known& about = known(placeOf(wish.row, wish.field));
    noteTyped(wish, about);
    if (typed != about.typed) return;  // of what stood there before something was typed
    about.isAsked = about.isStale = about.isPassing = false;
    about.digest = answer.digest;
    about.bytes = answer.bytes;
    if (answer.picture) {
        about.natural = answer.picture->natural;
        about.kind = answer.picture->kind;
    }
    about.why = answer.picture ? std::string() : answer.picture.error().message;
    const bool mayPass =
        !answer.picture && answer.digest == kNothingRead &&
        (answer.picture.error().code == ErrorCode::Locked || answer.picture.error().code == ErrorCode::Io);
    if (mayPass) {
        about.isAsked = true;  // until then
        waitingAgain_.push_back(placeOf(wish.row, wish.field));
        tryAgainLater();
    }
    if (answer.digest != kNothingRead && typed == 0) session_.records().noteRead(epoch, wish.row, wish.field, answer.digest);
    if (answer.picture) keep({answer.digest, wish.box.width(), wish.box.height(), wish.fills}, answer.picture->image);
    arrived_();
}

/// What was in the way may be gone: those in sight are asked for anew.
void PictureShelf::tryAgainLater() {
    constexpr int kAfterMs = 2000;
    if (std::exchange(isTryingAgain_, true)) return;
    QTimer::singleShot(kAfterMs, qApp, [this, alive = std::weak_ptr(alive_)] {
        if (alive.expired()) return;
        isTryingAgain_ = false;
        for (const Place place : std::exchange(waitingAgain_, {})) {
            Known& about = known(place);
            about.isPassing = !about.why.empty();
            about.isAsked = false;
        }
        arrived_();
    });
}

void PictureShelf::read(SourceRow row, FieldIndex field, std::function<void(const Result<std::string>&)> done) {
    behind(bytesOf(row, field), std::move(done));
}

void PictureShelf::decode(std::string bytes, QSize box, std::function<void(const Result<DecodedPicture>&)> done) {
    behind([bytes = std::move(bytes), box] { return decodePicture(bytes, box, false); }, std::move(done));
}

void PictureShelf::moveRows(const RowMoves& moves) {
    std::unordered_map<Place, Known> moved;
    for (auto* from : {&youngKnown_, &oldKnown_})
        for (auto& [place, about] : *from) {
            const auto row = moves.now(static_cast<SourceRow>(place >> 32));
            if (!row) continue;
            about.isAsked = false;
            about.isStale = true;
            moved.emplace(placeOf(*row, static_cast<FieldIndex>(place & 0xffffffffU)), std::move(about));
        }
    youngKnown_ = std::move(moved);
    oldKnown_.clear();
}

void PictureShelf::clear() {
    youngKnown_.clear();
    oldKnown_.clear();
    young_ = {};
    old_ = {};
    ++generation_;
}

}  // namespace jollyrow
