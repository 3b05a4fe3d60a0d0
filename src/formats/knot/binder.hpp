#pragma once
// From statements to a Model. Statements may stand in any order: a name that is not bound yet is
// bound when it is first needed, and a circle is told as one.

#include <string>
#include <vector>

#include "formats/knot/syntax.hpp"
#include "kiteknot/errors.hpp"
#include "kiteknot/read.hpp"

namespace kiteknot::formats::knot {

struct BindSource {
  std::string file;        // for messages
  std::string folder;      // tables are relative to it; "" for here
  std::string scenario{};  // whose changes are made; "": the model as it stands
  const SyntaxNode* question =
      nullptr;  // a condition on the model, and what its errors are told of
  std::string question_name{};
  std::vector<OtherData> other_data{};  // in place of what tables are stated to be read from
};

Reading<Model> bind(std::vector<Statement> statements, const BindSource& source, Diagnostics notes);

/// With source.question, the condition as well.
Reading<Question> bind_question(std::vector<Statement> statements, const BindSource& source,
                                Diagnostics notes);

}  // namespace kiteknot::formats::knot
