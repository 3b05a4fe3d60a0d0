#pragma once
// Words for tableaus: fractions, sums in names, and the small tables that steps are told with.

#include "report/forms/page.hpp"

namespace kiteknot::report {

/// "2 kites - 1/2 room of crew"; "0" for none.
std::string sum_text(const Tableau& tableau,
                     const std::vector<std::pair<Tableau::Column, Rational>>& terms);
/// The same with its sign and limit.
std::string sum_text(const Tableau& tableau, const TableauSum& sum);
/// "kites rises from 0"
std::string moves(const Tableau& tableau, Tableau::Column column, bool up);

/// With a capital at the beginning of a sentence.
std::string capital(std::string text);

void tell_tableau(Page& page, const Tableau& tableau, const PageOptions& options);
/// What the signs of a tableau call for next, in one or two sentences.
std::string what_next(const Tableau& tableau);
void tell_ratios(Page& page, const Tableau& before, const Ratios& ratios, Tableau::Column leaves);
void tell_ratios(Page& page, const Tableau& before, const DualRatios& ratios,
                 Tableau::Column enters);
/// A cut from its row to its decisions, with all that lies between.
void tell_derivation(Page& page, const Tableau& before, const TableauCut& cut);

}  // namespace kiteknot::report
