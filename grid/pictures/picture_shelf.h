// SPDX-License-Identifier: MIT
#pragma once
// PictureShelf: the pictures that the grid shows: read and decoded on a thread of their own when they are first
// painted, kept in memory up to a bound, the ones not looked at for longest given up first. Equal pictures are kept
// once. Confined to the window's thread but for that one.

#include <QImage>
#include <QSize>

#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <unordered_map>

#include "core/base/newest_first.h"
#include "core/base/post.h"
#include "core/base/worker.h"
#include "core/session/session.h"
#include "grid/pictures/decode_picture.h"

namespace jollyrow {

struct PictureWish {
    SourceRow row{};
    FieldIndex field{};
    QSize box;           ///< device pixels
    bool fills = false;  ///< PictureDesign::fills
    qreal corner = 0;    ///< device pixels that its corners are rounded by; the same for all of one box
};

struct ShownPicture {
    enum class State { Coming, There, Failed };
    State state = State::Coming;
    QImage image;     ///< There: no larger than the box
    std::string why;  ///< Failed: in words
    // Once it has been read:
    QSize natural;  ///< pixels
    PictureKind kind = PictureKind::Png;
    std::size_t bytes = 0;
};

class PictureShelf final {
  public:
    /// `arrived`: something asked for has come. Borrows the session.
    PictureShelf(Session& session, Post post, std::function<void()> arrived);
    ~PictureShelf();

    /// What can be shown just now; asks for it when it is not there. O(1).
    ShownPicture shown(const PictureWish& wish);
    /// Bytes of pictures that are kept.
    void setMost(std::size_t bytes) { most_ = bytes; }
    std::size_t held() const { return young_.bytes + old_.bytes; }
    /// Pictures that were asked for and have not come.
    bool isBusy() const { return waiting_ > 0; }

    /// The folder of pictures that values name.
    std::string folder() const;
    /// The bytes of a picture, for copying and saving out: `done` on this thread.
    void read(SourceRow row, FieldIndex field, std::function<void(const Result<std::string>&)> done);
    /// Decodes bytes that came from elsewhere, as read() does.
    void decode(std::string bytes, QSize box, std::function<void(const Result<DecodedPicture>&)> done);
    /// Runs something slow about a picture beside the window: `work` there, `done` here.
    template <class Work, class Done>
    void behind(Work work, Done done) {
        aside_.run([post = post_, work = std::move(work), done = std::move(done)] {
            post([done, answer = work()] { done(answer); });
        });
    }

    /// A reload: records are on other rows, and their pictures may be others. What was shown stays until it is read
    /// again.
    void moveRows(const RowMoves& moves);
    /// Another source.
    void clear();

  private:
    using Place = std::uint64_t;  ///< row and field
    static Place placeOf(SourceRow row, FieldIndex field) { return std::uint64_t{raw(row)} << 32 | raw(field); }
    struct Known {
        std::uint64_t digest = 0;  ///< of the bytes; 0 = not read yet
        std::size_t bytes = 0;
        QSize natural;
        PictureKind kind = PictureKind::Png;
        std::string why;  ///< they are no picture
        bool isAsked = false;
        bool isStale = false;         ///< read before a reload
        bool isPassing = false;       ///< `why` may be over by and by: the database was locked, a disk away
        std::uint64_t typed = 0;      ///< digest of the picture or file name that was typed; 0: the table's stands
        std::uint64_t editsSeen = 0;  ///< when that was looked at
    };
    struct Key {
        std::uint64_t digest = 0;
        int width = 0, height = 0;
        bool fills = false;
        bool operator==(const Key&) const = default;
    };
    struct Hash {
        std::size_t operator()(const Key& key) const {
            return key.digest ^ (static_cast<std::size_t>(key.width) << 33) ^
                   (static_cast<std::size_t>(key.height) << 17) ^ (key.fills ? 1U : 0U);
        }
    };
    struct Images {
        std::unordered_map<Key, QImage, Hash> kept;
        std::size_t bytes = 0;
    };
    struct Answer {
        std::uint64_t digest = 0;
        std::size_t bytes = 0;
        Result<DecodedPicture> picture = Error{};
    };

    Known& known(Place place);
    std::function<Result<std::string>()> bytesOf(SourceRow row, FieldIndex field) const;
    const QImage* find(const Key& key);
    void keep(const Key& key, QImage image);
    void ask(const PictureWish& wish, Known& known);
    void take(const PictureWish& wish, std::uint32_t epoch, std::uint64_t typed, const Answer& answer);
    void forgetOthers();
    void noteTyped(const PictureWish& wish, Known& about);
    void tryAgainLater();

    Session& session_;
    std::shared_ptr<bool> alive_ = std::make_shared<bool>(true);
    Post post_;
    std::function<void()> arrived_;
    std::size_t most_ = 64'000'000;
    // What was not looked at since the young became too many goes with the old.
    Images young_, old_;
    std::unordered_map<Place, Known> youngKnown_, oldKnown_;
    std::weak_ptr<const Table> table_;  ///< whose fields these places count in
    std::vector<std::string> fields_;
    std::string folder_;                  ///< of pictures that values name
    std::shared_ptr<const Edits> edits_;  ///< held, so that no other has its address
    std::uint64_t editsNumber_ = 1;
    std::uint64_t generation_ = 0;  ///< of places
    int waiting_ = 0;
    bool isTryingAgain_ = false;
    std::vector<Place> waitingAgain_;  ///< whose reading failed in a way that may pass
    NewestFirst worker_;
    Worker aside_;  ///< for what must not be dropped
};

}  // namespace jollyrow
