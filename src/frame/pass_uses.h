#pragma once

// The targets that a [[pass]] names: `reads` and `writes`.

#include <periscena/base/value.h>
#include <periscena/graph/read_write.h>
#include <periscena/passes/pass_kind.h>

#include <string>
#include <vector>

namespace periscena {

/// @param table  what stands at `reads`; empty: nothing @param what  for messages: `pass "mirror"`
std::vector<Read> read_reads(const Value& table, const std::string& what, Diagnostics& problems);
std::vector<Write> read_writes(const Value& table, const std::string& what, Diagnostics& problems);

/// Reports slots that are missing, and names that are none of them.
/// @param key  "reads" or "writes" @param own  may there be further names?
void check_slots(const std::string& what, const char* key, const std::vector<passes::SlotInfo>& slots, bool own,
                 const Value& table, const Place& pass_place, Diagnostics& problems);

}  // namespace periscena
