#include "core/cost/nnls.h"
#include <Eigen/Dense>

namespace mirolux {

std::vector<double> non_negative_least_squares(const std::vector<std::vector<double>>& rows,
                                               const std::vector<double>& b) {
    if (rows.empty()) return {};
    const auto m = static_cast<Eigen::Index>(rows.size()), n = static_cast<Eigen::Index>(rows.front().size());
    Eigen::MatrixXd A(m, n);
    Eigen::VectorXd y(m);
    for (Eigen::Index r = 0; r < m; ++r) {
        y[r] = b[static_cast<std::size_t>(r)];
        for (Eigen::Index c = 0; c < n; ++c)
            A(r, c) = rows[static_cast<std::size_t>(r)][static_cast<std::size_t>(c)];
    }
    // Columns of one length: the choice of the next unknown must not depend on its unit.
    Eigen::VectorXd scale = A.colwise().norm();
    for (Eigen::Index c = 0; c < n; ++c) {
        if (scale[c] <= 0) scale[c] = 1;
        A.col(c) /= scale[c];
    }
    std::vector<bool> passive(static_cast<std::size_t>(n), false);
    Eigen::VectorXd x = Eigen::VectorXd::Zero(n);
    const auto solve = [&] { // least squares over the passive unknowns, the others 0
        std::vector<Eigen::Index> columns;
        for (Eigen::Index c = 0; c < n; ++c)
            if (passive[static_cast<std::size_t>(c)]) columns.push_back(c);
        const Eigen::VectorXd part = A(Eigen::all, columns).colPivHouseholderQr().solve(y);
        Eigen::VectorXd full = Eigen::VectorXd::Zero(n);
        for (std::size_t i = 0; i < columns.size(); ++i)
            full[columns[i]] = part[static_cast<Eigen::Index>(i)];
        return full;
    };
    const double tolerance = 1e-10 * (A.transpose() * y).cwiseAbs().maxCoeff();
    for (Eigen::Index turn = 0; turn < 3 * n; ++turn) {
        const Eigen::VectorXd gradient = A.transpose() * (y - A * x);
        Eigen::Index best = -1;
        for (Eigen::Index c = 0; c < n; ++c)
            if (!passive[static_cast<std::size_t>(c)] && gradient[c] > tolerance &&
                (best < 0 || gradient[c] > gradient[best]))
                best = c;
        if (best < 0) break;
        passive[static_cast<std::size_t>(best)] = true;
        Eigen::VectorXd s = solve();
        for (;;) {
            double step = 1; // as far toward s as no unknown turns negative
            bool cut = false;
            for (Eigen::Index c = 0; c < n; ++c)
                if (passive[static_cast<std::size_t>(c)] && s[c] <= 0) {
                    step = std::min(step, x[c] / std::max(x[c] - s[c], 1e-300));
                    cut = true;
                }
            if (!cut) break;
            x += step * (s - x);
            for (Eigen::Index c = 0; c < n; ++c)
                if (passive[static_cast<std::size_t>(c)] && s[c] <= 0 && x[c] <= 1e-14) {
                    passive[static_cast<std::size_t>(c)] = false;
                    x[c] = 0;
                }
            s = solve();
        }
        x = s;
    }
    std::vector<double> out(static_cast<std::size_t>(n));
    for (Eigen::Index c = 0; c < n; ++c)
        out[static_cast<std::size_t>(c)] = std::max(0.0, x[c]) / scale[c];
    return out;
}

} // namespace mirolux
