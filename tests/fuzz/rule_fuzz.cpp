// SPDX-License-Identifier: MIT
// Any bytes as a rule and as a sort list: an error with a place inside the text, or a program that runs over hard
// records and is written as SQL.
#include <cstdint>
#include <cstdlib>

#include "core/rules/evaluator.h"
#include "core/rules/sort_list.h"
#include "core/rules/sql_writer.h"
#include "tests/rules/rule_records.h"

using namespace jollyrow;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const auto table = test::tableOf(test::hardFields());
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    const auto program = compileRule(text, table->schema);
    if (!program) {
        if (program.error().message.empty()) std::abort();
        if (program.error().where && program.error().where->offset > size) std::abort();
    } else {
        EvaluationInput input;
        input.table = table;
        if (const auto evaluation = Evaluation::prepare(*program, input, Cancel())) {
            Runner runner(*evaluation);
            const Vector& values = runner.run(0, table->rows);
            for (std::size_t i = 0; i < table->rows; ++i) cellOf(values, i);
        }
        for (const SqlDialect dialect : {SqlDialect::PostgreSql, SqlDialect::Sqlite})
            if (!sqlOf(**program, table->schema, dialect, {})) continue;
    }
    if (!parseSortList(text, table->schema)) return 0;
    return 0;
}
