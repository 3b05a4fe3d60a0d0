#pragma once
// Everything that a program needs. Programs usually write: namespace kk = kiteknot;

#include "kiteknot/curve.hpp"
#include "kiteknot/errors.hpp"
#include "kiteknot/explain.hpp"
#include "kiteknot/expression.hpp"
#include "kiteknot/methods.hpp"
#include "kiteknot/model.hpp"
#include "kiteknot/outcome.hpp"
#include "kiteknot/pages.hpp"
#include "kiteknot/plan.hpp"
#include "kiteknot/rational.hpp"
#include "kiteknot/read.hpp"
#include "kiteknot/result.hpp"
#include "kiteknot/solve.hpp"
#include "kiteknot/study.hpp"
#include "kiteknot/table.hpp"
#include "kiteknot/vary.hpp"
