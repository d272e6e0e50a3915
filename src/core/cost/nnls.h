#pragma once
#include <vector>

namespace mirolux {

/// The x >= 0 that makes |A x - b| least. rows: A, each as long as the number of unknowns; b parallel to rows.
/// Source: C. Lawson and R. Hanson, Solving Least Squares Problems, 1974, chapter 23 (active sets). Costs at most about
/// three times as many least-squares solutions as there are unknowns.
std::vector<double> non_negative_least_squares(const std::vector<std::vector<double>>& rows,
                                               const std::vector<double>& b);

} // namespace mirolux
