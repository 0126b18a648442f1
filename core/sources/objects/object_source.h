// SPDX-License-Identifier: MIT
#pragma once
// ObjectSource<T>: objects of an application's own class as the records of a grid, a line a column:
//
//   jollyrow::ObjectSource<Job> jobs("jobs");
//   jobs.field("work", &Job::work);
//   jobs.field("due", &Job::due);
//   jobs.computed("late", [](const Job& job) { return job.due < today(); });
//   jobs.set(std::move(all));                 // a std::vector<Job>
//   grid.open(jobs);
//
// What form users type is written into the objects, on the owner's thread, when it passes the checks; what the
// application changes by change(), add() and remove() is shown by all grids at once. Workers read while the owner
// changes: objects stand in parts of some hundred, and one that is being read is copied before it is written (T must
// be copyable).
//
// Confined to the owner's thread. It must outlive no grid: those that are left then keep what they show.

#include <algorithm>
#include <concepts>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/sources/objects/object_value.h"
#include "core/sources/objects/objects.h"

namespace jollyrow {

template <class T>
class ObjectSource final : public Objects {
  public:
    explicit ObjectSource(std::string name) : Objects(std::move(name)) {}
    ~ObjectSource() override { close(); }

    /// What is said of a field behind its declaration: `jobs.field("hours", &Job::hours).scale(1)`.
    class Field {
      public:
        Field(ObjectSource& source, FieldIndex index) : source_(source), index_(index) {}
        Field& required(bool required = true) {
            return with([&](FieldSchema& f) { f.required = required; });
        }
        /// Decimals of a Decimal.
        Field& scale(int scale) {
            return with([&](FieldSchema& f) { f.scale = scale; });
        }
        Field& readOnly() {
            return with([](FieldSchema& f) { f.generated = true; });
        }
        Field& longText() {
            return with([](FieldSchema& f) { f.use = Use::LongText; });
        }
        Field& picture() {
            return with([](FieldSchema& f) { f.use = Use::Picture; });
        }
        /// Code points of a text.
        Field& atMost(int length) {
            return with([&](FieldSchema& f) { f.maxLength = length; });
        }
        Field& choices(std::vector<std::string> values) {
            return with([&](FieldSchema& f) {
                f.use = Use::Choice;
                f.permitted = std::move(values);
            });
        }
        FieldIndex index() const { return index_; }

      private:
        template <class Change>
        Field& with(const Change& change) {
            FieldSchema& schema = source_.fieldAt(index_);
            change(schema);
            source_.state_->fields[raw(index_)].schema = schema;
            return *this;
        }
        ObjectSource& source_;
        FieldIndex index_;
    };

    /// A member, or what it is inherited from; shown and edited.
    template <class Member, class Owner>
    requires std::derived_from<T, Owner> Field field(std::string name, Member Owner::*member) {
        return add<Member>(
            std::move(name), [member](const T& object) -> const Member& { return object.*member; },
            [member](T& object, const Value& value) { return ObjectValue<Member>::set(object.*member, value); });
    }
    /// By functions, e.g. of a class with getters and setters; `set` is given the value as the getter has it, and
    /// returns void, or a text that says why it is not taken (empty: it is).
    template <class Get, class Set>
    requires std::invocable<const Get&, const T&> Field field(std::string name, Get get, Set set) {
        using Held = std::remove_cvref_t<std::invoke_result_t<const Get&, const T&>>;
        return add<Held>(std::move(name), get, [get, set](T& object, const Value& value) -> Result<void> {
            Held held = std::invoke(get, std::as_const(object));
            if (auto done = ObjectValue<Held>::set(held, value); !done) return done;
            if constexpr (std::is_void_v<std::invoke_result_t<const Set&, T&, Held>>) {
                std::invoke(set, object, std::move(held));
                return {};
            } else {
                return reason(std::invoke(set, object, std::move(held)));
            }
        });
    }
    /// Computed from the object, and never written. It must look at nothing but the object: workers call it.
    template <class Get>
    requires std::invocable<const Get&, const T&> Field computed(std::string name, Get get) {
        using Held = std::remove_cvref_t<std::invoke_result_t<const Get&, const T&>>;
        Field made = add<Held>(std::move(name), get, nullptr);
        return made.readOnly();
    }
    /// A field that no member holds: the source keeps a value of this type beside each object for as long as that is
    /// there, e.g. which ones were picked. Shown, edited, sorted and filtered like any other.
    template <class Held>
    Field unbound(std::string name, Held initial = {}) {
        Known known;
        known.schema.name = std::move(name);
        ObjectValue<Held>::describe(known.schema);
        Beside& beside = known.beside.emplace();
        beside.place = besides_++;
        beside.initial = ObjectValue<Held>::value(initial, known.schema);
        beside.fill = [initial](const Value& value, ColumnChunk& chunk, const FieldSchema& field) {
            Held held = initial;
            if (ObjectValue<Held>::set(held, value))
                ObjectValue<Held>::add(chunk, held, field);
            else
                chunk.addEmpty();
        };
        beside.taken = [initial](const Value& value, const FieldSchema& field) -> Result<Value> {
            Held held = initial;
            if (auto done = ObjectValue<Held>::set(held, value); !done) return done.error();
            return ObjectValue<Held>::value(held, field);
        };
        const FieldIndex index = addField(known.schema);
        state_->fields.push_back(std::move(known));
        return Field(*this, index);
    }
    /// Puts a value into a field that unbound() made. Fails for other fields, for an object that is gone, and for a
    /// value of another type.
    Result<void> setUnbound(ObjectId id, FieldIndex field, const Value& value) {
        const Known& known = state_->fields[raw(field)];
        const auto at = placeOf(id);
        if (!known.beside) return Error{ErrorCode::InvalidInput, "A member holds this field: change the object."};
        if (!at) return Error{ErrorCode::NotFound, "There is no such object."};
        auto taken = known.beside->taken(value, known.schema);
        if (!taken) return taken.error();
        {
            const std::lock_guard lock(state_->mutex);
            Part* part = writable(at->first);
            if (part->beside.size() <= at->second) part->beside.resize(part->objects.size());
            put(part->beside[at->second], *known.beside, std::move(*taken));
        }
        touched(id);
        return {};
    }
    /// What a field holds now, bound, computed or unbound; empty when the object is gone.
    Value value(ObjectId id, FieldIndex field) const { return valueOf(id, field); }
    /// A check of an object as a form user would leave it: a text that says what is wrong, empty when nothing is.
    /// `fields`: which are marked.
    void check(std::function<std::string(const T&)> check, std::vector<std::string> fields = {}) {
        checks_.push_back({std::move(check), std::move(fields)});
    }

    /// Takes these objects in place of all others. O(objects).
    void set(std::vector<T> objects) {
        std::vector<std::shared_ptr<Part>> parts;
        for (std::size_t begin = 0; begin < objects.size(); begin += kPart) {
            auto part = std::make_shared<Part>();
            for (std::size_t i = begin; i < std::min(begin + kPart, objects.size()); ++i) {
                part->ids.push_back(next_++);
                part->objects.push_back(std::move(objects[i]));
            }
            parts.push_back(std::move(part));
        }
        {
            const std::lock_guard lock(state_->mutex);
            state_->parts.swap(parts);
        }
        touchedAll();
    }
    /// O(1).
    ObjectId add(T object) {
        const ObjectId id = append(std::move(object));
        touched(id);
        return id;
    }
    /// Calls `change(object)`; false when there is none. O(log objects), and a copy of a part that is being read.
    template <class Change>
    bool change(ObjectId id, const Change& change) {
        const auto at = placeOf(id);
        if (!at) return false;
        {
            const std::lock_guard lock(state_->mutex);
            change(writable(at->first)->objects[at->second]);
        }
        touched(id);
        return true;
    }
    /// False when there is none.
    bool remove(ObjectId id) {
        if (!erase(id)) return false;
        touched(id);
        return true;
    }
    /// Null when it is gone. Meant until the next change of any object.
    const T* find(ObjectId id) const {
        const auto at = placeOf(id);
        return at ? &state_->parts[at->first]->objects[at->second] : nullptr;
    }
    /// The object of a record of a grid: `jobs.of(grid.currentRecord().key())`.
    const T* of(const RecordKey& key) const {
        const auto id = idOf(key);
        return id ? find(*id) : nullptr;
    }
    static std::optional<ObjectId> idOf(const RecordKey& key) {
        const auto* id = key.size() == 1 ? std::get_if<std::int64_t>(&key[0]) : nullptr;
        return id ? std::optional(*id) : std::nullopt;
    }
    std::size_t size() const {
        std::size_t all = 0;
        for (const auto& part : state_->parts) all += part->ids.size();
        return all;
    }
    /// Calls visit(id, object) for each, in bound order.
    template <class Visit>
    void forEach(const Visit& visit) const {
        for (const auto& part : state_->parts)
            for (std::size_t i = 0; i < part->ids.size(); ++i) visit(part->ids[i], std::as_const(part->objects[i]));
    }

  private:
    static constexpr std::size_t kPart = 512;
    struct Part {
        std::vector<ObjectId> ids;  ///< rising, within a part and from part to part
        std::vector<T> objects;
        /// What is kept beside each object, by place; shorter where nothing was put there.
        std::vector<std::vector<Value>> beside;
    };
    /// Of a field that no member holds.
    struct Beside {
        std::size_t place = 0;
        Value initial;
        std::function<void(const Value&, ColumnChunk&, const FieldSchema&)> fill;
        std::function<Result<Value>(const Value&, const FieldSchema&)> taken;  ///< as the field's type has it
    };
    struct Known {
        FieldSchema schema;
        std::optional<Beside> beside = std::nullopt;  ///< then the following are empty
        std::function<void(const T*, std::size_t, ColumnChunk&, const FieldSchema&)> fill;
        std::function<Value(const T&, const FieldSchema&)> value;
        std::function<Result<void>(T&, const Value&)> set;  ///< empty: never written
    };
    /// What workers share; it outlives the source while one reads.
    struct State {
        std::recursive_mutex mutex;  ///< held while a part is changed, and while parts are taken to be read
        std::vector<std::shared_ptr<Part>> parts;  ///< changed by the owner with the mutex, which it reads without
        std::vector<Known> fields;                 ///< as they are from the first reading on
    };
    struct Check {
        std::function<std::string(const T&)> check;
        std::vector<std::string> fields;
    };

    class Rows final : public ObjectRows {
      public:
        explicit Rows(std::shared_ptr<State> state) : state_(std::move(state)) {
            const std::lock_guard lock(state_->mutex);
            parts_ = state_->parts;
            for (const auto& part : parts_) {
                begins_.push_back(size_);
                size_ += part->ids.size();
            }
        }
        ~Rows() override {
            const std::lock_guard lock(state_->mutex);  // the owner sees by their count that nobody reads them
            parts_.clear();
        }
        std::size_t size() const override { return size_; }
        void fill(FieldIndex field, std::size_t begin, std::size_t count, ColumnChunk& chunk) const override {
            const Known& known = state_->fields[raw(field)];
            forParts(begin, count, [&](const Part& part, std::size_t from, std::size_t rows) {
                if (!known.beside) return known.fill(part.objects.data() + from, rows, chunk, known.schema);
                for (std::size_t i = from; i < from + rows; ++i)
                    known.beside->fill(besideOf(part, i, *known.beside), chunk, known.schema);
            });
        }
        void fillIds(std::size_t begin, std::size_t count, ColumnChunk& chunk) const override {
            forParts(begin, count, [&](const Part& part, std::size_t from, std::size_t rows) {
                for (std::size_t i = from; i < from + rows; ++i) chunk.addInteger(part.ids[i]);
            });
        }

      private:
        template <class Visit>
        void forParts(std::size_t begin, std::size_t count, const Visit& visit) const {
            auto at =
                static_cast<std::size_t>(std::upper_bound(begins_.begin(), begins_.end(), begin) - begins_.begin()) - 1;
            for (; count > 0; ++at) {
                const std::size_t from = begin - begins_[at];
                const std::size_t rows = std::min(count, parts_[at]->ids.size() - from);
                visit(*parts_[at], from, rows);
                begin += rows;
                count -= rows;
            }
        }
        std::shared_ptr<State> state_;
        std::vector<std::shared_ptr<Part>> parts_;
        std::vector<std::size_t> begins_;
        std::size_t size_ = 0;
    };

    static const Value& besideOf(const Part& part, std::size_t at, const Beside& beside) {
        const bool isPut = at < part.beside.size() && beside.place < part.beside[at].size();
        return isPut ? part.beside[at][beside.place] : beside.initial;
    }
    /// Fields before it that nothing was put into get what they begin with.
    void put(std::vector<Value>& values, const Beside& beside, Value value) const {
        for (const Known& known : state_->fields)
            if (known.beside && known.beside->place == values.size() && values.size() <= beside.place)
                values.push_back(known.beside->initial);
        values[beside.place] = std::move(value);
    }
    Value valueAt(const Part& part, std::size_t at, const Known& known) const {
        return known.beside ? besideOf(part, at, *known.beside) : known.value(part.objects[at], known.schema);
    }

    static Result<void> reason(const std::string& why) {
        return why.empty() ? Result<void>() : Result<void>(Error{ErrorCode::Refused, why});
    }

    template <class Held, class Get>
    Field add(std::string name, Get get, std::function<Result<void>(T&, const Value&)> set) {
        Known known;
        known.schema.name = std::move(name);
        ObjectValue<Held>::describe(known.schema);
        known.fill = [get](const T* objects, std::size_t count, ColumnChunk& chunk, const FieldSchema& field) {
            for (std::size_t i = 0; i < count; ++i) ObjectValue<Held>::add(chunk, std::invoke(get, objects[i]), field);
        };
        known.value = [get](const T& object, const FieldSchema& field) {
            return ObjectValue<Held>::value(std::invoke(get, object), field);
        };
        known.set = std::move(set);
        const FieldIndex index = addField(known.schema);
        state_->fields.push_back(std::move(known));
        return Field(*this, index);
    }

    /// Part and place in it. O(log objects).
    std::optional<std::pair<std::size_t, std::size_t>> placeOf(ObjectId id) const {
        const auto& parts = state_->parts;
        const auto after =
            std::partition_point(parts.begin(), parts.end(), [&](const auto& part) { return part->ids.front() <= id; });
        if (after == parts.begin()) return std::nullopt;
        const auto part = static_cast<std::size_t>(after - parts.begin()) - 1;
        const auto& ids = parts[part]->ids;
        const auto at = std::lower_bound(ids.begin(), ids.end(), id);
        if (at == ids.end() || *at != id) return std::nullopt;
        return std::pair(part, static_cast<std::size_t>(at - ids.begin()));
    }
    /// A part that no worker reads. Requires: the mutex is held until it is changed.
    Part* writable(std::size_t at) {
        auto& part = state_->parts[at];
        if (part.use_count() > 1) part = std::make_shared<Part>(*part);
        return part.get();
    }
    ObjectId append(T object) {
        const std::lock_guard lock(state_->mutex);
        if (state_->parts.empty() || state_->parts.back()->ids.size() >= kPart)
            state_->parts.push_back(std::make_shared<Part>());
        Part* last = writable(state_->parts.size() - 1);
        last->ids.push_back(next_);
        last->objects.push_back(std::move(object));
        return next_++;
    }
    bool erase(ObjectId id) {
        const auto at = placeOf(id);
        if (!at) return false;
        const std::lock_guard lock(state_->mutex);
        Part* part = writable(at->first);
        part->ids.erase(part->ids.begin() + static_cast<std::ptrdiff_t>(at->second));
        part->objects.erase(part->objects.begin() + static_cast<std::ptrdiff_t>(at->second));
        if (at->second < part->beside.size())
            part->beside.erase(part->beside.begin() + static_cast<std::ptrdiff_t>(at->second));
        if (!part->ids.empty()) return true;
        state_->parts.erase(state_->parts.begin() + static_cast<std::ptrdiff_t>(at->first));
        return true;
    }

    // ---- Objects
    std::shared_ptr<const ObjectRows> rows() const override { return std::make_shared<Rows>(state_); }
    bool has(ObjectId id) const override { return placeOf(id).has_value(); }
    Value valueOf(ObjectId id, FieldIndex field) const override {
        const auto at = placeOf(id);
        return at ? valueAt(*state_->parts[at->first], at->second, state_->fields[raw(field)]) : Value(Empty{});
    }

    std::optional<std::vector<std::pair<FieldIndex, Value>>> valuesOf(ObjectId id) const override {
        const auto at = placeOf(id);
        if (!at) return std::nullopt;
        std::vector<std::pair<FieldIndex, Value>> values;
        values.reserve(state_->fields.size());
        for (std::size_t i = 0; i < state_->fields.size(); ++i)
            values.emplace_back(static_cast<FieldIndex>(i),
                                valueAt(*state_->parts[at->first], at->second, state_->fields[i]));
        return values;
    }

    struct Tried final : Trial {
        struct One {
            RecordChange change;
            ObjectId id;
            std::optional<T> object;
            std::vector<std::pair<FieldIndex, Value>> beside = {};
        };
        std::vector<One> all;
    };
    std::unique_ptr<Trial> begin() override { return std::make_unique<Tried>(); }
    Result<void> tryOne(Trial& trial, const RecordWrite& record, ObjectId id,
                        std::vector<FieldIndex>& atFault) override {
        auto& all = static_cast<Tried&>(trial).all;
        if (record.change == RecordChange::Delete) {
            all.push_back({record.change, id, std::nullopt});
            return {};
        }
        std::optional<T> object;
        // A record may be written twice in one save.
        for (auto& one : all)
            if (one.id == id && one.object && id != 0) object = one.object;
        if (!object && record.change == RecordChange::Insert) {
            if constexpr (std::default_initializable<T>)
                object.emplace();
            else
                return Error{ErrorCode::Unsupported, "New ones are made by the application alone."};
        }
        if (!object) object = *find(id);
        std::vector<std::pair<FieldIndex, Value>> beside;
        for (const FieldChange& change : record.changes) {
            const Known& known = state_->fields[raw(change.field)];
            atFault = {change.field};
            if (known.beside) {
                if (record.change == RecordChange::Insert && isEmpty(change.after) && known.schema.required) continue;
                auto taken = known.beside->taken(change.after, known.schema);
                if (!taken) return taken.error();
                beside.emplace_back(change.field, std::move(*taken));
                continue;
            }
            if (!known.set) return Error{ErrorCode::ReadOnly, "This field is computed."};
            if (record.change == RecordChange::Insert && isEmpty(change.after) && known.schema.required) continue;
            if (auto done = known.set(*object, change.after); !done) return done;
        }
        for (const Check& check : checks_) {
            const std::string why = check.check(*object);
            if (why.empty()) continue;
            atFault.clear();
            for (const std::string& name : check.fields)
                if (const auto field = schema().find(name)) atFault.push_back(*field);
            return Error{ErrorCode::Refused, why};
        }
        all.push_back({record.change, id, std::move(object), std::move(beside)});
        return {};
    }
    std::vector<ObjectId> commit(Trial& trial) override {
        const std::lock_guard lock(state_->mutex);
        std::vector<ObjectId> ids;
        for (auto& one : static_cast<Tried&>(trial).all) {
            if (one.change == RecordChange::Insert)
                one.id = append(std::move(*one.object));
            else if (one.change == RecordChange::Delete)
                erase(one.id);
            else if (const auto at = placeOf(one.id))
                writable(at->first)->objects[at->second] = std::move(*one.object);
            ids.push_back(one.id);
            const auto at = one.beside.empty() ? std::nullopt : placeOf(one.id);
            if (!at) continue;
            Part* part = writable(at->first);
            if (part->beside.size() <= at->second) part->beside.resize(part->objects.size());
            for (auto& [field, value] : one.beside)
                put(part->beside[at->second], *state_->fields[raw(field)].beside, std::move(value));
        }
        return ids;
    }

    std::shared_ptr<State> state_ = std::make_shared<State>();
    std::vector<Check> checks_;
    std::size_t besides_ = 0;  ///< fields that no member holds
    ObjectId next_ = 1;
};

}  // namespace jollyrow
