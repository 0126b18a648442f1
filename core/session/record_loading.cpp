// SPDX-License-Identifier: MIT
// Covered by tests/session/session_test.cpp, also under ThreadSanitizer.
#include "core/session/record_loading.h"

#include <algorithm>
#include <utility>

#include "core/columns/time_zone.h"
#include "core/rules/syntax.h"
#include "core/session/schema_for.h"

namespace jollyrow {

RecordLoading::RecordLoading(BoundRecords& bound, EditedView& view, Hooks hooks)
    : bound_(bound),
      view_(view),
      hooks_(std::move(hooks)),
      schemas_(bound.post,
               [this] {
                   if (bound_.listener.onSchemas) bound_.listener.onSchemas();
               }),
      loader_(bound.post, loaderHooks()) {}

void RecordLoading::stop() {
    schemas_.stop();
    loader_.stop();
}

Loader::Hooks RecordLoading::loaderHooks() {
    Loader::Hooks hooks;
    hooks.onRecords = [this](std::shared_ptr<const Table> table, const LoadProgress& progress, std::uint64_t load,
                             bool) {
        bound_.state.loadMilliseconds = progress.milliseconds;
        view_.take(std::move(table), load);
    };
    hooks.onProgress = [this](const LoadProgress& progress) {
        if (bound_.listener.onProgress) bound_.listener.onProgress(progress);
    };
    hooks.onEnd = [this](const Result<void>& result) {
        bound_.journal.loadEnded();
        isCancelled_ = false;
        if (bound_.listener.onLoaded) bound_.listener.onLoaded(result);
        hooks_.ended();
        if (!isLoading() && std::exchange(readsAgain_, false)) reload();
    };
    return hooks;
}

std::optional<Result<TableSchema>> RecordLoading::ask(std::shared_ptr<const Source> source, const Design& design,
                                                      SchemaDesk::Late late) {
    return schemas_.ask([source = std::move(source), design, registered = bound_.registered](
                            const Cancel& cancel) { return schemaFor(*source, design, registered.get(), cancel); },
                        std::move(late));
}

void RecordLoading::awaitAgain() {
    if (isLoading() && bound_.schema.fields.empty()) awaitSchema();
}

void RecordLoading::forget(std::shared_ptr<const Source> source) {
    schemas_.forget(std::move(source));
    loader_.cancel();
    isCancelled_ = readsAgain_ = false;
}

void RecordLoading::beginWith(TableSchema schema) {
    bound_.schema = std::move(schema);
    hooks_.fieldsChanged();
    const bool isKnown = !bound_.schema.fields.empty();
    bound_.plan = std::make_shared<ViewPlan>(
        isKnown ? planOf(bound_.design, bound_.schema, nullptr, bound_.registered.get()) : ViewPlan());
    loader_.forget();
    view_.begin();
}

Loader::SchemaCame RecordLoading::schemaAwaited() {
    return loader_.await([this](const TableSchema& schema) {
        beginWith(schema);
        hooks_.begun();
        begin(Loader::Parts::Shown);
    });
}

void RecordLoading::awaitSchema() {
    const Loader::SchemaCame came = schemaAwaited();
    if (const auto schema = ask(bound_.source, bound_.design, came)) came(*schema);
}

void RecordLoading::cancel() {
    loader_.cancel();
    isCancelled_ = isLoading();
    if (bound_.schema.fields.empty()) schemas_.cancel();
}

void RecordLoading::begin() { begin(bound_.table->rows == 0 ? Loader::Parts::Shown : Loader::Parts::Kept); }

void RecordLoading::begin(Loader::Parts parts) {
    isCancelled_ = false;
    bound_.journal.loadBegun();
    bound_.state.now = zoneOf(bound_.schema).localNow();
    loader_.begin(bound_.source, loadRequest(bound_.design, bound_.schema, bound_.plan->wanted, bound_.state), parts);
}

void RecordLoading::reload() {
    if (isCancelled_) readsAgain_ = true;  // as soon as the one that is given up has ended
    if (!isLoading()) bound_.schema.fields.empty() ? awaitSchema() : begin(Loader::Parts::Kept);
}

void RecordLoading::reloadBehind() {
    readsAgain_ = true;
    if (!isLoading() && std::exchange(readsAgain_, false)) reload();
}

void RecordLoading::viewIsThere() {
    if (loader_.isWhole()) loader_.end({});
}

namespace {
bool sameBanners(const ViewPlan& one, const ViewPlan& other) {
    return std::equal(one.banners.begin(), one.banners.end(), other.banners.begin(), other.banners.end(),
                      [](const PlannedBanner& a, const PlannedBanner& b) {
                          return a.design.where == b.design.where && a.design.heads == b.design.heads &&
                                 sameMeaning(a.where, b.where);
                      });
}
}  // namespace

void RecordLoading::planAgain(bool computesAnew, std::optional<TableSchema> read) {
    if (bound_.schema.fields.empty()) {  // what it means is seen when the schema is there
        if (isLoading()) awaitSchema();
        return;
    }
    const std::vector<FieldSchema> before = bound_.schema.fields;
    const bool related = takeFields(std::move(read));
    auto plan =
        std::make_shared<ViewPlan>(planOf(bound_.design, bound_.schema, bound_.plan.get(), bound_.registered.get()));
    bool missing = false;
    for (std::size_t i = 0; i < bound_.schema.storedFields(); ++i)
        missing = missing || (plan->wanted[i] && !bound_.table->columns[i] && bound_.table->rows != 0);
    const ViewPlan& last = *bound_.plan;
    const bool rowsChanged = plan->sort != last.sort || plan->filter != last.filter ||
                             plan->computed != last.computed || !sameBanners(*plan, last) || computesAnew ||
                             bound_.schema.fields != before;
    const bool extentsChanged = plan->extents != last.extents;
    if (plan->computed != last.computed) view_.forgetComputedBefore();
    bound_.plan = std::move(plan);
    hooks_.planned();
    if (related || (missing && !isLoading())) begin();
    if (rowsChanged)
        view_.recompute();
    else if (extentsChanged)
        view_.recompute(EditedView::Order::Kept);
}

/// Widens the schema by the related and computed fields that the design asks for. True when related ones have come:
/// their values come with the load that follows.
bool RecordLoading::takeFields(std::optional<TableSchema> read) {
    TableSchema next = bound_.schema;
    bool wider = false;
    const std::vector<std::string> wanted = relatedFields(bound_.design, bound_.schema);
    if (!wanted.empty() && bound_.source && !bound_.schema.isView) {
        Binding more = bindingFor(bound_.design, bound_.schema);
        more.related.insert(more.related.end(), wanted.begin(), wanted.end());
        if (!read) read = readFields(std::move(more));
        const std::size_t known = bound_.schema.storedFields();
        wider = read && read->fields.size() > known &&
                std::equal(bound_.schema.fields.begin(),
                           bound_.schema.fields.begin() + static_cast<std::ptrdiff_t>(known), read->fields.begin());
        if (wider) next = std::move(*read);
    }
    next = withComputedFields(std::move(next), bound_.design, bound_.registered.get());
    if (next.fields != bound_.schema.fields) view_.refit(std::move(next));
    return wider;
}

/// The schema with related fields; nullopt when it cannot be had, or comes late: then the plan is made again with it.
std::optional<TableSchema> RecordLoading::readFields(Binding binding) {
    auto read = schemas_.ask([source = bound_.source, binding = std::move(binding)](
                                 const Cancel& cancel) { return source->schema(binding, cancel); },
                             [this](const Result<TableSchema>& schema) {
                                 if (schema) return planAgain(false, *schema);
                                 bound_.fail(schema.error());
                             });
    return read && *read ? std::optional(std::move(**read)) : std::nullopt;
}

TableSchema RecordLoading::schemaReading(const std::string& rule) {
    std::vector<std::string> more;
    for (const std::string& name : columnsNamed(rule))
        if (name.find('.') != std::string::npos && !bound_.schema.find(name)) more.push_back(name);
    if (more.empty() || bound_.schema.isView) return bound_.schema;
    TableSchema stored = bound_.schema;
    stored.fields.resize(bound_.schema.storedFields());
    return withComputedFields(schemas_.withRelated(std::move(stored), more), bound_.design, bound_.registered.get());
}

}  // namespace jollyrow
