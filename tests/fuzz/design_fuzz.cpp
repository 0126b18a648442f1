// SPDX-License-Identifier: MIT
// Any bytes as a design file: refused with a message, or a design that is planned and whose file reads as itself.
#include <cstdint>
#include <cstdlib>

#include "core/design/cell_text.h"
#include "core/design/computed_fields.h"
#include "core/design/design_file.h"
#include "core/design/plan.h"
#include "tests/rules/rule_records.h"

using namespace jollyrow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const auto table = test::tableOf(test::hardFields());
    const auto read = designFromJson({reinterpret_cast<const char*>(data), size});
    if (!read) {
        if (read.error().message.empty()) std::abort();
        return 0;
    }
    const std::string written = toJson(read->design);
    const auto again = designFromJson(written);
    if (!again || toJson(again->design) != written) std::abort();
    const TableSchema schema = withComputedFields(table->schema, read->design);
    const ViewPlan plan = planOf(read->design, schema);
    parametersOf(read->design);
    relatedFields(read->design, schema);
    // Faces and styles over records, as far as all columns are there.
    if (plan.computed.empty()) {
        Snapshot snapshot;
        snapshot.table = table;
        CellText cell;
        for (const PlannedColumn& column : plan.columns) {
            if (!column.face) continue;
            CellReader reader(snapshot, column);
            for (std::uint32_t row = 0; row < 3; ++row) reader.read(static_cast<SourceRow>(row), cell);
        }
        StyleReader styles(snapshot, plan.styles);
        for (std::uint32_t row = 0; row < 3; ++row)
            for (const PlannedColumn& column : plan.columns) styles.of(static_cast<SourceRow>(row), column.field);
    }
    for (const Finding& finding : plan.findings) {
        Design mended = read->design;
        mend(mended, finding);
    }
    return 0;
}
