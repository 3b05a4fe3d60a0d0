#pragma once
// What a plan decides, family by family: lists, small grids for two keys, names for single ones.

#include "report/forms/page.hpp"

namespace kiteknot::report {

/// `what.rows`: at most so many names or rows of each family; `what.family`: only this one.
void tell_decided(Page& page, const ModelData& model, const Plan& plan, const ShowOptions& what,
                  const PageOptions& options);

}  // namespace kiteknot::report
