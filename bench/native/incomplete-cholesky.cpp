// The same pressure system, by a kept library's conjugate gradients with incomplete Cholesky (Eigen 3). Usage: incomplete-cholesky N; one JSON object.
#include <Eigen/Sparse>
#include <Eigen/IterativeLinearSolvers>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <vector>

int main(int argc, char** argv) {
  const int n = argc > 1 ? std::atoi(argv[1]) : 128;
  const double c = n / 2.0, r = n / 5.0, w = 2 * M_PI / n;
  std::vector<int> index(size_t(n) * n * n, -1);
  const auto at = [&](int i, int j, int k) { return (size_t(k) * n + j) * n + i; };
  int count = 0;
  for (int k = 0; k < n; k++)
    for (int j = 0; j < n; j++)
      for (int i = 0; i < n; i++)
        if (std::hypot(i + 0.5 - c, j + 0.5 - c, k + 0.5 - c) > r) index[at(i, j, k)] = count++;
  std::vector<Eigen::Triplet<double>> entries;
  Eigen::VectorXd b(count);
  for (int k = 0; k < n; k++)
    for (int j = 0; j < n; j++)
      for (int i = 0; i < n; i++) {
        const int row = index[at(i, j, k)];
        if (row < 0) continue;
        b[row] = std::sin(w * (i + 0.5)) * std::cos(3 * w * (j + 0.5)) + 0.3 * std::sin(5 * w * (k + 0.5));
        int diagonal = 0;
        const int d[6][3] = {{-1, 0, 0}, {1, 0, 0}, {0, -1, 0}, {0, 1, 0}, {0, 0, -1}, {0, 0, 1}};
        for (const auto& o : d) {
          const int x = i + o[0], y = j + o[1], z = k + o[2];
          if (x < 0 || y < 0 || z < 0 || x >= n || y >= n || z >= n || index[at(x, y, z)] < 0) continue;
          diagonal++;
          entries.emplace_back(row, index[at(x, y, z)], -1.0);
        }
        entries.emplace_back(row, row, double(diagonal));
      }
  b.array() -= b.mean();
  Eigen::SparseMatrix<double> A(count, count);
  A.setFromTriplets(entries.begin(), entries.end());
  const auto t = std::chrono::steady_clock::now();
  Eigen::ConjugateGradient<Eigen::SparseMatrix<double>, Eigen::Lower | Eigen::Upper, Eigen::IncompleteCholesky<double>> solver;
  solver.setTolerance(1e-4);
  solver.compute(A);
  const Eigen::VectorXd x = solver.solve(b);
  const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - t).count();
  std::printf("{\"n\":%d,\"seconds\":%.4f,\"iterations\":%d,\"residual\":%.3e}\n", n, seconds, int(solver.iterations()), (b - A * x).norm() / b.norm());
}
