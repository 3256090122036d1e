// The same pressure system by a kept library's own Poisson solver (OpenVDB: conjugate gradients with incomplete Cholesky on its tree), on one thread.
// Usage: sparse-volumes N; one JSON object. The library stops by the largest entry of the residual, in single precision: its tolerance is lowered until
// the true residual, measured here in the 2-norm, is 1e-4, and the last solve counts.
#include <openvdb/openvdb.h>
#include <openvdb/tools/PoissonSolver.h>
#include <tbb/global_control.h>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>

using namespace openvdb;

int main(int argc, char** argv) {
  const int n = argc > 1 ? std::atoi(argv[1]) : 128;
  tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
  openvdb::initialize();
  const double c = n / 2.0, r = n / 5.0, w = 2 * M_PI / n;
  FloatTree b(0.0f);
  double mean = 0;
  size_t count = 0;
  for (int k = 0; k < n; k++)
    for (int j = 0; j < n; j++)
      for (int i = 0; i < n; i++) {
        if (std::hypot(i + 0.5 - c, j + 0.5 - c, k + 0.5 - c) <= r) continue;
        const double v = std::sin(w * (i + 0.5)) * std::cos(3 * w * (j + 0.5)) + 0.3 * std::sin(5 * w * (k + 0.5));
        b.setValueOn(Coord(i, j, k), float(v));
        mean += v;
        count++;
      }
  mean /= count;
  double norm = 0;
  for (auto it = b.beginValueOn(); it; ++it) {
    it.setValue(float(it.getValue() - mean));
    norm += double(it.getValue()) * it.getValue();
  }
  // A closed face adds nothing: the neighbour is no unknown.
  const auto closed = [](const Coord&, const Coord&, double&, double&) {};
  double seconds = 0, residual = 1;
  int iterations = 0;
  for (double tolerance = 1e-2; residual > 1e-4 && tolerance > 1e-7; tolerance /= 1.5) {
    math::pcg::State state = math::pcg::terminationDefaults<float>();
    state.iterations = 2000;
    state.relativeError = tolerance;
    state.absoluteError = 1e-12;
    util::NullInterrupter none;
    const auto t = std::chrono::steady_clock::now();
    FloatTree::Ptr x = tools::poisson::solveWithBoundaryConditions(b, closed, state, none, true);
    seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - t).count();
    iterations = state.iterations;
    tree::ValueAccessor<const FloatTree> at(*x), in(b);
    double sum = 0;
    for (auto it = b.cbeginValueOn(); it; ++it) {
      const Coord p = it.getCoord();
      double lap = 0;
      for (int a = 0; a < 3; a++)
        for (int s = -1; s <= 1; s += 2) {
          Coord q = p;
          q[a] += s;
          if (in.isValueOn(q)) lap += double(at.getValue(q)) - at.getValue(p);
        }
      sum += (lap - it.getValue()) * (lap - it.getValue());
    }
    residual = std::sqrt(sum / norm);
  }
  std::printf("{\"n\":%d,\"seconds\":%.4f,\"iterations\":%d,\"residual\":%.3e}\n", n, seconds, iterations, residual);
}
