#pragma once
#include <cstddef>
#include <vector>

// The largest of many numbers that change one by one, and their sum.
namespace mirolux {

/// A change takes as many steps as the count has binary digits. Sums are added in pairs: the same numbers have the same
/// sum to the last bit, whatever order they came in.
class PowerTree {
public:
    explicit PowerTree(std::size_t count = 0);
    void set(std::size_t i, double value); // at least 0
    /// Sets all at once: value(i).
    template <class Value>
    void fill(const Value& value) {
        for (std::size_t i = 0; i < count_; ++i)
            sums_[leaves_ + i] = most_[leaves_ + i] = value(i);
        for (std::size_t n = leaves_ - 1; n > 0; --n)
            join(n);
    }
    double sum() const { return sums_[1]; }
    /// The first of the largest; count where all are 0.
    std::size_t largest() const;

private:
    void join(std::size_t node);
    std::size_t count_ = 0, leaves_ = 1;
    std::vector<double> sums_, most_; // by node: 1 is the root, leaves from leaves_ on
};

} // namespace mirolux
