// SPDX-License-Identifier: MIT
#pragma once
// Objects: an application's own objects as records, whatever their class (object_source.h has the classes). They are
// the application's; grids read them on workers, write into them on the owner's thread, and are told of what the
// application changes.
//
// Confined to the owner's thread, but for source(), whose calls any thread may make.

#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <variant>
#include <vector>

#include "core/base/post.h"
#include "core/base/require.h"
#include "core/base/result.h"
#include "core/columns/column_chunk.h"
#include "core/sources/source.h"

namespace jollyrow {

/// Names an object for as long as it is there; never given to another one.
using ObjectId = std::int64_t;

/// The objects as they stand at one moment, in bound order; for a worker, while it reads them.
class ObjectRows {
  public:
    virtual ~ObjectRows() = default;
    virtual std::size_t size() const = 0;
    /// Appends what a field holds in these rows to a chunk of its type.
    virtual void fill(FieldIndex field, std::size_t begin, std::size_t count, ColumnChunk& chunk) const = 0;
    virtual void fillIds(std::size_t begin, std::size_t count, ColumnChunk& chunk) const = 0;
};

class Objects {
  public:
    virtual ~Objects();
    Objects(const Objects&) = delete;
    Objects& operator=(const Objects&) = delete;

    /// The fields that were declared. From the first call on there are no more.
    const TableSchema& schema() const;
    /// Reads them. Outlives the objects: then there are none.
    std::shared_ptr<const Source> source();

    /// Tells a view what the application changes, once for all that it does in one turn. Any number of links.
    using Told = std::function<void(const std::vector<ElsewhereChange>&)>;
    std::uint64_t link(Post post, Told told);
    void unlink(std::uint64_t link);
    /// Tells a view what has become of an object, as if it had just been touched.
    void tellAgain(std::uint64_t link, ObjectId id);
    /// Expired when the objects are gone.
    std::weak_ptr<Objects*> self() const { return self_; }
    /// Why a record is not taken.
    struct Refusal {
        std::size_t record = 0;
        std::string message;
        std::vector<FieldIndex> fields;
    };
    /// Writes what was typed in the view of a link into the objects: all of it or, when one of them does not take it,
    /// nothing. Other views are told.
    std::variant<std::vector<StoredRecord>, Refusal> write(std::span<const RecordWrite> records, std::uint64_t link);

  protected:
    explicit Objects(std::string name);
    FieldIndex addField(FieldSchema field);
    FieldSchema& fieldAt(FieldIndex field);
    /// By any thread.
    virtual std::shared_ptr<const ObjectRows> rows() const = 0;
    /// An object changed, came, or went.
    void touched(ObjectId id);
    /// So many have that views had better read all of them again.
    void touchedAll();
    /// From the end of the derived class on nobody reads its objects. Waits for those who do.
    void close();

    virtual bool has(ObjectId id) const = 0;
    virtual Value valueOf(ObjectId id, FieldIndex field) const = 0;
    /// Of all fields; nullopt when it is gone.
    virtual std::optional<std::vector<std::pair<FieldIndex, Value>>> valuesOf(ObjectId id) const = 0;
    /// Of several writes together: a trial of each, then all of them.
    struct Trial {
        virtual ~Trial() = default;
    };
    virtual std::unique_ptr<Trial> begin() = 0;
    /// `id`: of the object; 0 for a new one. Fails in words for the form user; `atFault` are the fields.
    virtual Result<void> tryOne(Trial& trial, const RecordWrite& record, ObjectId id,
                                std::vector<FieldIndex>& atFault) = 0;
    /// The identities of the objects, in their order.
    virtual std::vector<ObjectId> commit(Trial& trial) = 0;

  private:
    class Reader;
    struct Link {
        Post post;
        Told told;
        std::set<ObjectId> touched;
        bool isAll = false;
        bool isPosted = false;
    };
    void tell(std::uint64_t link);
    void post(std::uint64_t number, Link& link);
    std::optional<Refusal> staleIn(const RecordWrite& record, ObjectId id) const;

    TableSchema schema_;
    mutable bool frozen_ = false;
    std::shared_ptr<Reader> reader_;
    std::map<std::uint64_t, Link> links_;
    std::uint64_t nextLink_ = 1;
    std::uint64_t writing_ = 0;  ///< the link whose edits are being written; 0 = none
    std::shared_ptr<Objects*> self_ = std::make_shared<Objects*>(this);
    ConfinedToThread owner_;
};

}  // namespace jollyrow
