#pragma once
namespace kiteknot::test {
/// How often this program has asked for memory; counted where allocations.cpp is linked in.
long allocations();
}  // namespace kiteknot::test
