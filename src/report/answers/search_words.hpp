#pragma once
// What a search did, in sentences.

#include "report/forms/page.hpp"

namespace kiteknot::report {

/// How far branching brought the bound, and how the branches ended; nothing where there was hardly
/// any branching.
void tell_branching(Page& page, const Result& result);
/// What was seen as machines; nothing where there are none.
void tell_machines(Page& page, const Result& result);
/// What the work went into, where that was much.
void tell_work(Page& page, const Result& result);

}  // namespace kiteknot::report
