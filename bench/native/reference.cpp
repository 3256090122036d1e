// The kernels that Ruddle is measured against, as plain C++: the same methods on the same data, dense loops, left to the compiler
// (-O3 -march=native). Usage: reference N; prints one JSON object.
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <functional>
#include <string>
#include <vector>

using Field = std::vector<float>;
using Bytes = std::vector<uint8_t>;

static double now() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}
/** Shortest of several: what the machine can do when it is left alone. */
static double shortest(int rounds, const std::function<void()>& body) {
  double best = 1e30;
  for (int r = 0; r < rounds; r++) {
    const double t = now();
    body();
    best = std::min(best, now() - t);
  }
  return best;
}

/** N cells a side with a halo of one; x fastest. */
struct Grid {
  int n, sx, sp;
  size_t size;
  explicit Grid(int n) : n(n), sx(n + 2), sp((n + 2) * (n + 2)), size(size_t(n + 2) * (n + 2) * (n + 2)) {}
  size_t at(int i, int j, int k) const { return size_t(k + 1) * sp + size_t(j + 1) * sx + (i + 1); }
};

// ---- advection -------------------------------------------------------------------------------------------------------------

static inline float sample(const Grid& g, const float* f, float x, float y, float z) {
  x = std::min(std::max(x, -1.0f), g.n - 0.001f);
  y = std::min(std::max(y, -1.0f), g.n - 0.001f);
  z = std::min(std::max(z, -1.0f), g.n - 0.001f);
  const int i = int(std::floor(x)), j = int(std::floor(y)), k = int(std::floor(z));
  const float a = x - i, b = y - j, c = z - k;
  const float* p = f + g.at(i, j, k);
  const float v00 = p[0] + a * (p[1] - p[0]), v10 = p[g.sx] + a * (p[g.sx + 1] - p[g.sx]);
  const float v01 = p[g.sp] + a * (p[g.sp + 1] - p[g.sp]), v11 = p[g.sp + g.sx] + a * (p[g.sp + g.sx + 1] - p[g.sp + g.sx]);
  const float v0 = v00 + b * (v10 - v00), v1 = v01 + b * (v11 - v01);
  return v0 + c * (v1 - v0);
}

struct Point { float x, y, z; };

static inline Point trace(const Grid& g, const float* u, const float* v, const float* w, int i, int j, int k, float c) {
  const size_t o = g.at(i, j, k);
  const float x = i + 0.5f, y = j + 0.5f, z = k + 0.5f;
  const float vx = 0.5f * (u[o] + u[o + 1]), vy = 0.5f * (v[o] + v[o + g.sx]), vz = 0.5f * (w[o] + w[o + g.sp]);
  const float mx = x - 0.5f * c * vx, my = y - 0.5f * c * vy, mz = z - 0.5f * c * vz;
  return {x - c * sample(g, u, mx, my - 0.5f, mz - 0.5f) - 0.5f, y - c * sample(g, v, mx - 0.5f, my, mz - 0.5f) - 0.5f,
          z - c * sample(g, w, mx - 0.5f, my - 0.5f, mz) - 0.5f};
}

static void semiLagrangian(const Grid& g, const float* u, const float* v, const float* w, const float* f, float* out, float c) {
  for (int k = 0; k < g.n; k++)
    for (int j = 0; j < g.n; j++)
      for (int i = 0; i < g.n; i++) {
        const Point p = trace(g, u, v, w, i, j, k, c);
        out[g.at(i, j, k)] = sample(g, f, p.x, p.y, p.z);
      }
}

static void correct(const Grid& g, const float* u, const float* v, const float* w, const uint8_t* status, const float* f, const float* forward,
                    float* out, float c) {
  const auto corner = [&](Point p) {
    const int m = g.n - 1;
    return g.at(std::min(std::max(int(std::floor(p.x)), -1), m), std::min(std::max(int(std::floor(p.y)), -1), m),
                std::min(std::max(int(std::floor(p.z)), -1), m));
  };
  const size_t cube[8] = {0, 1, size_t(g.sx), size_t(g.sx) + 1, size_t(g.sp), size_t(g.sp) + 1, size_t(g.sp) + g.sx, size_t(g.sp) + g.sx + 1};
  for (int k = 0; k < g.n; k++)
    for (int j = 0; j < g.n; j++)
      for (int i = 0; i < g.n; i++) {
        const size_t o = g.at(i, j, k);
        const Point back = trace(g, u, v, w, i, j, k, c), on = trace(g, u, v, w, i, j, k, -c);
        const size_t b = corner(back), d = corner(on);
        bool good = true;
        float low = 1e30f, high = -1e30f;
        for (size_t q : cube) {
          good = good && status[b + q] == 1 && status[d + q] == 1;
          low = std::min(low, f[b + q]);
          high = std::max(high, f[b + q]);
        }
        const float second = forward[o] + 0.5f * (f[o] - sample(g, forward, on.x, on.y, on.z));
        out[o] = good ? std::min(std::max(second, low), high) : forward[o];
      }
}

// ---- pressure --------------------------------------------------------------------------------------------------------------

/** One level: what is fluid, the diagonal, and (with fractions) how open each cell's lower faces are. */
struct Level {
  Grid g;
  bool fractions;
  Bytes status, diagonal;
  Field wx, wy, wz, diag, x, b;
  Level(int n, bool fractions) : g(n), fractions(fractions), status(g.size, 0), diagonal(g.size, 0), x(g.size, 0.0f), b(g.size, 0.0f) {
    if (fractions) for (Field* f : {&wx, &wy, &wz, &diag}) f->assign(g.size, 0.0f);
  }
  void build() {
    for (int k = 0; k < g.n; k++)
      for (int j = 0; j < g.n; j++)
        for (int i = 0; i < g.n; i++) {
          const size_t o = g.at(i, j, k);
          if (!status[o]) continue;
          if (fractions) {
            diag[o] = wx[o] * status[o - 1] + wx[o + 1] * status[o + 1] + wy[o] * status[o - g.sx] + wy[o + g.sx] * status[o + g.sx] +
                      wz[o] * status[o - g.sp] + wz[o + g.sp] * status[o + g.sp];
            if (diag[o] < 1e-6f) status[o] = 0, diag[o] = 0;
          } else
            diagonal[o] = status[o - 1] + status[o + 1] + status[o - g.sx] + status[o + g.sx] + status[o - g.sp] + status[o + g.sp];
        }
  }
};

template <bool F> static inline float around(const Level& l, const float* x, size_t o) {
  const int sx = l.g.sx, sp = l.g.sp;
  if (F)
    return l.wx[o] * x[o - 1] + l.wx[o + 1] * x[o + 1] + l.wy[o] * x[o - sx] + l.wy[o + sx] * x[o + sx] + l.wz[o] * x[o - sp] +
           l.wz[o + sp] * x[o + sp];
  return x[o - 1] + x[o + 1] + x[o - sx] + x[o + sx] + x[o - sp] + x[o + sp];
}
template <bool F> static inline float centre(const Level& l, size_t o) { return F ? l.diag[o] : float(l.diagonal[o]); }

template <bool F> static void smooth(Level& l, float* x, const float* b, int colour) {
  for (int k = 0; k < l.g.n; k++)
    for (int j = 0; j < l.g.n; j++) {
      const size_t row = l.g.at(0, j, k);
      for (int i = (j + k + colour) & 1; i < l.g.n; i += 2) {
        const size_t o = row + i;
        const float d = centre<F>(l, o);
        if (d > 0) x[o] = (b[o] + around<F>(l, x, o)) / d;
      }
    }
}
/** out = A x (or b - A x); returns the sum of x out. */
template <bool F> static double apply(const Level& l, const float* x, float* out, const float* b) {
  double sum = 0;
  for (int k = 0; k < l.g.n; k++)
    for (int j = 0; j < l.g.n; j++) {
      const size_t row = l.g.at(0, j, k);
      float line = 0;
      for (int i = 0; i < l.g.n; i++) {
        const size_t o = row + i;
        const float d = centre<F>(l, o);
        float v = d * x[o] - around<F>(l, x, o);
        if (b) v = b[o] - v;
        v = d > 0 ? v : 0;
        out[o] = v;
        line += x[o] * v;
      }
      sum += line;
    }
  return sum;
}
static double dot(const Level& l, const float* a, const float* b) {
  double sum = 0;
  for (int k = 0; k < l.g.n; k++)
    for (int j = 0; j < l.g.n; j++) {
      const size_t row = l.g.at(0, j, k);
      float line = 0;
      for (int i = 0; i < l.g.n; i++) line += a[row + i] * b[row + i];
      sum += line;
    }
  return sum;
}

struct Solver {
  std::vector<Level> levels;
  Field r, z, p, q;
  template <bool F> void cycle(size_t n, float* x, const float* b) {
    Level& l = levels[n];
    std::fill(x, x + l.g.size, 0.0f);
    const bool last = n + 1 == levels.size();
    const int sweeps = last ? 12 : 2;
    for (int s = 0; s < sweeps; s++) smooth<F>(l, x, b, 0), smooth<F>(l, x, b, 1);
    if (!last) {
      Level& c = levels[n + 1];
      for (int k = 0; k < c.g.n; k++)
        for (int j = 0; j < c.g.n; j++)
          for (int i = 0; i < c.g.n; i++) {
            float sum = 0;
            for (int m = 0; m < 8; m++) {
              const size_t o = l.g.at(2 * i + (m & 1), 2 * j + ((m >> 1) & 1), 2 * k + (m >> 2));
              const float d = centre<F>(l, o);
              if (d > 0) sum += b[o] - (d * x[o] - around<F>(l, x, o));
            }
            const size_t o = c.g.at(i, j, k);
            c.b[o] = centre<F>(c, o) > 0 ? 0.5f * sum : 0;
          }
      cycle<F>(n + 1, c.x.data(), c.b.data());
      for (int k = 0; k < l.g.n; k++)
        for (int j = 0; j < l.g.n; j++)
          for (int i = 0; i < l.g.n; i++) {
            const size_t o = l.g.at(i, j, k);
            if (centre<F>(l, o) > 0) x[o] += c.x[c.g.at(i / 2, j / 2, k / 2)];
          }
    }
    for (int s = 0; s < sweeps; s++) smooth<F>(l, x, b, 1), smooth<F>(l, x, b, 0);
  }
  /** Conjugate gradients preconditioned by a V-cycle, to a true relative residual. */
  template <bool F> int solve(Field& x, const Field& b, double tolerance) {
    Level& l = levels[0];
    const double scale = std::sqrt(dot(l, b.data(), b.data()));
    double rz = 0;
    int iterations = 0;
    apply<F>(l, x.data(), r.data(), b.data());
    while (iterations < 100) {
      cycle<F>(0, z.data(), r.data());
      const double next = dot(l, r.data(), z.data());
      const float beta = rz == 0 ? 0 : float(next / rz);
      for (size_t o = 0; o < l.g.size; o++) p[o] = z[o] + beta * p[o];
      rz = next;
      const float alpha = float(rz / apply<F>(l, p.data(), q.data(), nullptr));
      for (size_t o = 0; o < l.g.size; o++) x[o] += alpha * p[o], r[o] -= alpha * q[o];
      iterations++;
      if (std::sqrt(dot(l, r.data(), r.data())) <= tolerance * scale) {
        apply<F>(l, x.data(), r.data(), b.data());
        if (std::sqrt(dot(l, r.data(), r.data())) <= tolerance * scale) break;
        rz = 0;
        std::fill(p.begin(), p.end(), 0.0f);
      }
    }
    return iterations;
  }
};

/** Part of a face that lies outside the ball: 8 x 8 samples. */
static float openPart(int n, int axis, int i, int j, int k) {
  int open = 0;
  const double c = n / 2.0, r = n / 5.0;
  for (int a = 0; a < 8; a++)
    for (int b = 0; b < 8; b++) {
      const double s = (a + 0.5) / 8, t = (b + 0.5) / 8;
      const double x = i + (axis == 0 ? 0 : s), y = j + (axis == 1 ? 0 : axis == 0 ? s : t), z = k + (axis == 2 ? 0 : t);
      open += (x - c) * (x - c) + (y - c) * (y - c) + (z - c) * (z - c) > r * r;
    }
  const float part = open / 64.0f;
  return part < 0.02f ? 0 : part;
}

static Solver build(int n, bool fractions) {
  Solver s;
  for (int m = n; m >= 8 && (m == n || m % 2 == 0); m /= 2) s.levels.emplace_back(m, fractions);
  Level& f = s.levels[0];
  for (int k = 0; k < n; k++)
    for (int j = 0; j < n; j++)
      for (int i = 0; i < n; i++) {
        const size_t o = f.g.at(i, j, k);
        if (fractions) {
          f.wx[o] = i == 0 ? 0 : openPart(n, 0, i, j, k);
          f.wy[o] = j == 0 ? 0 : openPart(n, 1, i, j, k);
          f.wz[o] = k == 0 ? 0 : openPart(n, 2, i, j, k);
          f.status[o] = 1;
        } else
          f.status[o] = 1;  // the byte operator is measured in the empty box
      }
  if (fractions)
    for (int k = 0; k < n; k++)
      for (int j = 0; j < n; j++)
        for (int i = 0; i < n; i++) {
          const size_t o = f.g.at(i, j, k);
          if (f.wx[o] + f.wx[o + 1] + f.wy[o] + f.wy[o + f.g.sx] + f.wz[o] + f.wz[o + f.g.sp] == 0) f.status[o] = 0;
        }
  f.build();
  for (size_t m = 1; m < s.levels.size(); m++) {
    const Level& a = s.levels[m - 1];
    Level& b = s.levels[m];
    for (int k = 0; k < b.g.n; k++)
      for (int j = 0; j < b.g.n; j++)
        for (int i = 0; i < b.g.n; i++) {
          const size_t o = b.g.at(i, j, k);
          for (int q = 0; q < 8; q++) {
            const size_t fine = a.g.at(2 * i + (q & 1), 2 * j + ((q >> 1) & 1), 2 * k + (q >> 2));
            b.status[o] |= a.status[fine];
            if (fractions) {
              if (!(q & 1)) b.wx[o] += 0.25f * a.wx[fine];
              if (!(q & 2)) b.wy[o] += 0.25f * a.wy[fine];
              if (!(q & 4)) b.wz[o] += 0.25f * a.wz[fine];
            }
          }
        }
    b.build();
  }
  for (Field* v : {&s.r, &s.z, &s.p, &s.q}) v->assign(f.g.size, 0.0f);
  return s;
}

static Field rightSide(const Level& l) {
  Field b(l.g.size, 0.0f);
  const int n = l.g.n;
  const double w = 2 * M_PI / n;
  double sum = 0, count = 0;
  const auto fluid = [&](size_t o) { return l.fractions ? l.diag[o] > 0 : l.diagonal[o] > 0; };
  for (int k = 0; k < n; k++)
    for (int j = 0; j < n; j++)
      for (int i = 0; i < n; i++) {
        const size_t o = l.g.at(i, j, k);
        if (!fluid(o)) continue;
        b[o] = float(std::sin(w * (i + 0.5)) * std::cos(3 * w * (j + 0.5)) + 0.3 * std::sin(5 * w * (k + 0.5)));
        sum += b[o], count++;
      }
  for (size_t o = 0; o < b.size(); o++) if (fluid(o)) b[o] -= float(sum / count);
  return b;
}

int main(int argc, char** argv) {
  const int n = argc > 1 ? std::atoi(argv[1]) : 128;
  const int rounds = argc > 2 ? std::atoi(argv[2]) : 3;
  Grid g(n);
  Field u(g.size), v(g.size), w(g.size), f(g.size), a(g.size), b(g.size);
  Bytes status(g.size, 0);
  for (int k = 0; k < n; k++) for (int j = 0; j < n; j++) for (int i = 0; i < n; i++) status[g.at(i, j, k)] = 1;
  for (int k = -1; k <= n; k++)
    for (int j = -1; j <= n; j++)
      for (int i = -1; i <= n; i++) {
        const size_t o = g.at(i, j, k);
        u[o] = -(j + 0.5f - n / 2.0f) / n, v[o] = (i + 0.5f - n / 2.0f) / n, w[o] = 0.3f * std::sin(0.1f * i);
        f[o] = std::exp(-0.001f * ((i - n / 2.0f) * (i - n / 2.0f) + (j - n / 3.0f) * (j - n / 3.0f)));
      }
  const float c = 4.0f;
  std::printf("{\"n\":%d", n);
  std::printf(",\"semiLagrangian\":%.6f", shortest(rounds, [&] { semiLagrangian(g, u.data(), v.data(), w.data(), f.data(), a.data(), c); }));
  std::printf(",\"macCormack\":%.6f", shortest(rounds, [&] {
                semiLagrangian(g, u.data(), v.data(), w.data(), f.data(), a.data(), c);
                correct(g, u.data(), v.data(), w.data(), status.data(), f.data(), a.data(), b.data(), c);
              }));
  for (const bool fractions : {false, true}) {
    Solver s = build(n, fractions);
    const Field rhs = rightSide(s.levels[0]);
    int iterations = 0;
    const double t = shortest(rounds, [&] {
      Field x(rhs.size(), 0.0f);
      std::fill(s.p.begin(), s.p.end(), 0.0f);
      iterations = fractions ? s.solve<true>(x, rhs, 1e-4) : s.solve<false>(x, rhs, 1e-4);
    });
    std::printf(",\"%s\":%.6f,\"%sIterations\":%d", fractions ? "fractions" : "bytes", t, fractions ? "fractions" : "bytes", iterations);
  }
  // Memory triad: what moving bytes costs at best.
  Field ta(1 << 24, 1.0f), tb(1 << 24, 2.0f), tc(1 << 24, 0.0f);
  const double triad = shortest(5, [&] { for (size_t o = 0; o < ta.size(); o++) tc[o] = ta[o] + 3.0f * tb[o]; });
  std::printf(",\"triadBytesPerSecond\":%.4e,\"check\":%.3f}\n", 3.0 * 4.0 * ta.size() / triad, double(a[g.at(n / 2, n / 3, n / 2)] + b[g.at(n / 2, n / 3, n / 2)] + tc[5]));
}
