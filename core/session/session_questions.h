// SPDX-License-Identifier: MIT
#pragma once
// SessionQuestions: what is asked of a session beside its view. Each question is answered on a worker, and `done` is
// called on the owner's thread; unless it says otherwise a newer question takes the place of an older one of its kind,
// whose `done` is not called then. Confined to the session's thread.

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/design/find.h"
#include "core/design/summary_table.h"
#include "core/formats/named_records.h"
#include "core/rows/cell_figures.h"
#include "core/rows/figure_origin.h"
#include "core/rows/value_spread.h"
#include "core/session/bound_records.h"
#include "core/session/edited_view.h"
#include "core/session/enquiries.h"
#include "core/session/session_checks.h"

namespace jollyrow {

class SessionQuestions final {
  public:
    template <class Answer>
    using Done = std::function<void(const Result<Answer>&)>;
    SessionQuestions(BoundRecords& bound, EditedView& view, SessionChecks& checks, Enquiries& enquiries)
        : bound_(bound), view_(view), checks_(checks), enquiries_(enquiries) {}

    enum class Answers {
        Latest,    ///< a later question of the kind takes its place
        EachCall,  ///< whatever is asked after it
    };

    /// The distinct values of a column under all conditions but that of `leftOut` (an index into the design's filter).
    void pickList(FieldIndex field, std::optional<std::size_t> leftOut, Done<std::shared_ptr<const PickList>> done);
    /// Searches the records of the snapshot.
    void find(FindQuery query, Done<std::shared_ptr<const RecordSet>> done);
    /// The figures of some records alone, e.g. the selected ones, in the order of the design's summaries that can be
    /// had.
    void figuresOf(std::vector<SourceRow> rows, Done<std::vector<EvaluatedCell>> done,
                   Answers answers = Answers::Latest);
    /// What some cells come to; rows and fields of the snapshot.
    void figuresOfCells(std::vector<CellBlock> blocks, Done<CellFigures> done);
    /// How the values of a field, or of a rule when it is given, lie; for cut points. Each call is answered.
    void spread(const std::string& field, const std::string& rule, std::size_t bins,
                const Done<std::shared_ptr<const ValueSpread>>& done);
    /// The groups and figures shown, as a table of their own.
    void summaryTable(const SummaryTableWanted& wanted, Done<SummaryTable> done, Answers answers = Answers::Latest);
    /// How a figure of the snapshot came to be; `node` is tree().nodes.size() for that of all records shown.
    void originOf(std::size_t summary, std::uint32_t node, Done<FigureOrigin> done);
    /// The same of other records of the snapshot, e.g. the selected ones.
    void originOf(std::size_t summary, const std::vector<SourceRow>& rows, Done<FigureOrigin> done);
    /// What points to these records in other tables, and what deleting them does to it.
    void dependentsOf(const std::vector<SourceRow>& rows, Done<std::vector<Dependents>> done);

    /// Searches the table a look-up points to, by label.
    void lookUp(FieldIndex field, std::string contains, Done<std::vector<LookUpEntry>> done);
    /// The records of the table a look-up points to that are called so, by label or by key: all that there are, however
    /// many have one name. Each call is answered.
    void linkedCalled(FieldIndex field, std::vector<std::string> names, Done<NamedRecords> done);
    /// Makes a record of the table a look-up points to, called so, and hands it over; its other fields get what the
    /// database gives them, or it is refused. Saved at once, and no step to take back. Each call is answered.
    void addLinked(FieldIndex field, std::string label, Done<LookUpEntry> done);

  private:
    const SummaryRule* ruleOf(std::size_t summary) const;
    template <class Work, class Answer>
    void ask(Enquiries::Kind kind, Answers answers, Work work, Done<Answer> done);
    std::optional<LookUpRequest> linkedBy(FieldIndex field) const;

    BoundRecords& bound_;
    EditedView& view_;
    SessionChecks& checks_;
    Enquiries& enquiries_;
};

}  // namespace jollyrow
