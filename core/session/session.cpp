// SPDX-License-Identifier: MIT
// Loading, computing, enquiring and writing have a thread each. Each job gets immutable input and posts one product;
// what is outdated by then is dropped by its number. Here the parts are made, and each is told the news of the others.
// Covered by tests/session/session_test.cpp, also under ThreadSanitizer.
#include "core/session/session.h"

#include <algorithm>
#include <vector>

#include "core/rules/query_parameters.h"
#include "core/sources/objects/table_source.h"

namespace jollyrow {

namespace {

OpenGroups openAtFirst(const Design& design) {
    OpenGroups open;
    for (const GroupDesign& group : design.groups) open.levels.push_back(group.open);
    return open;
}

/// A way to the owner's thread that ends with the owner.
Post whileAlive(Post post, const std::shared_ptr<bool>& alive) {
    return [post = std::move(post), alive = std::weak_ptr<bool>(alive)](std::function<void()> call) {
        post([alive, call = std::move(call)] {
            if (alive.lock()) call();
        });
    };
}

}  // namespace

Session::Session(Post post, SessionListener listener)
    : bound_(whileAlive(std::move(post), alive_), std::move(listener),
             [this](std::uint64_t serial, const RecordJournal::Answers& answers) { answers_.take(serial, answers); }),
      finder_(bound_),
      view_(bound_, finder_, viewHooks()),
      loading_(bound_, view_, loadingHooks()),
      enquiries_(bound_.post),
      checks_(
          bound_, view_, enquiries_,
          {[this](SourceRow row) { records_.leave(row); }, [this](SourceRow row) { records_.saveAsDesigned({row}); }}),
      answers_(bound_, finder_, view_, checks_, enquiries_,
               {[this] { elsewhere_.askLater(); }, [this] { loading_.reloadBehind(); }}),
      records_(bound_, finder_, view_, checks_, enquiries_),
      steps_(bound_, records_),
      drafts_(bound_, finder_, view_, loading_, records_),
      elsewhere_(bound_, finder_, view_, loading_),
      groups_(bound_, view_),
      set_(bound_, view_, loading_),
      questions_(bound_, view_, checks_, enquiries_) {}

EditedView::Hooks Session::viewHooks() {
    EditedView::Hooks hooks;
    hooks.edited = [this](std::span<const SourceRow> rows) { checks_.find(rows); };
    hooks.recordsChanged = [this] { checks_.findAll(); };
    hooks.fieldsChanged = [this] { checks_.forget(); };
    hooks.moving = [this] { answers_.moving(); };
    hooks.moved = [this](const RowMoves& moves) {
        drafts_.moveRows(moves);
        records_.forgetRead();
        loading_.forgetSchemas();
        checks_.forgetRows();
        answers_.moved();
    };
    hooks.showing = [this] { drafts_.sync(); };
    hooks.computed = [this] { loading_.viewIsThere(); };
    return hooks;
}

RecordLoading::Hooks Session::loadingHooks() {
    RecordLoading::Hooks hooks;
    hooks.fieldsChanged = [this] {
        checks_.forget();
        records_.forgetRead();
    };
    hooks.planned = [this] { checks_.findAll(); };
    hooks.begun = [this] { drafts_.begin(); };
    hooks.ended = [this] { drafts_.tellLeft(); };
    return hooks;
}

Session::~Session() {
    loading_.stop();
    view_.stop();
    enquiries_.stop();
    elsewhere_.stop();
    records_.finish();
    drafts_.finish();
}

Result<void> Session::open(Design design, const std::string& sourcePath) {
    auto source = openSource(sourcePath);
    if (!source) return source.error();
    return openOn(std::move(*source), std::move(design), sourcePath, [sourcePath] { return openStore(sourcePath); });
}

Result<void> Session::open(Design design, std::shared_ptr<const Source> source, StoreOpener store,
                           const std::string& sourcePath) {
    return openOn(std::move(source), std::move(design), sourcePath, std::move(store));
}

Result<void> Session::open(Design design, std::shared_ptr<const Table> table) {
    return openOn(tableSource(std::move(table)), std::move(design), {}, []() -> Result<std::unique_ptr<Store>> {
        return Error{ErrorCode::ReadOnly, "A table in memory cannot be edited."};
    });
}

Result<void> Session::openOn(std::shared_ptr<const Source> source, Design design, const std::string& sourcePath,
                             StoreOpener store) {
    JOLLYROW_REQUIRE(bound_.owner.isHere());
    auto late = std::make_shared<Loader::SchemaCame>();
    auto schema = loading_.ask(source, design, [late](const Result<TableSchema>& came) { (*late)(came); });
    if (schema && !*schema) {
        loading_.awaitAgain();
        return schema->error();
    }
    loading_.forget(source);
    bound_.source = std::move(source);
    bound_.design = std::move(design);
    bound_.sourcePath = sourcePath;
    bound_.state = {};
    bound_.state.parameters = parametersOf(bound_.design);
    bound_.state.open = openAtFirst(bound_.design);
    bound_.journal.setVersionField(bound_.design.grid.version);
    bound_.journal.setChangedByField(bound_.design.grid.changedBy);
    records_.begin(std::move(store));
    view_.forget();
    checks_.forgetRows();
    answers_.forget();
    elsewhere_.forget();
    loading_.beginWith(schema ? std::move(**schema) : TableSchema{});
    drafts_.begin();
    schema ? loading_.begin(Loader::Parts::Shown) : void(*late = loading_.schemaAwaited());
    return {};
}

namespace {
/// They are planned with groups and figures, and shown as those were planned.
std::vector<StyleDesign> lineStylesOf(const Design& design) {
    std::vector<StyleDesign> styles;
    for (const StyleDesign& style : design.styles)
        if (style.lines != StyledLines::Records) styles.push_back(style);
    return styles;
}
}  // namespace

void Session::setDesign(Design design) {
    JOLLYROW_REQUIRE(bound_.owner.isHere());
    Design& present = bound_.design;
    if (design == present) return;
    const bool parametersChanged = design.parameters != present.parameters;
    const bool groupsChanged = design.groups != present.groups || design.summaries != present.summaries ||
                               design.grid.totalAll != present.grid.totalAll ||
                               lineStylesOf(design) != lineStylesOf(present);
    const bool levelsChanged = openAtFirst(design).levels != openAtFirst(present).levels;
    present = std::move(design);
    bound_.journal.setVersionField(present.grid.version);
    bound_.journal.setChangedByField(present.grid.changedBy);
    if (parametersChanged) bound_.state.parameters = parametersOf(present);
    if (levelsChanged) bound_.state.open.levels = openAtFirst(present).levels;
    loading_.planAgain(parametersChanged || groupsChanged);
}

}  // namespace jollyrow
