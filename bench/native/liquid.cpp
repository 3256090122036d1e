// The particle stages of a liquid's substep as plain C++: counting sort by cell, affine particles to a staggered grid (tents), signed distance by averaged
// positions, grid to particles with a Runge-Kutta step of third order and a sampled wall distance. One thread, left to the compiler (-O3 -march=native).
// Usage: liquid ROUNDS; a body of 64 x 32 x 64 voxels with 8 particles each in a window of 128 voxels a side. Prints one JSON object.
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <vector>

static double now() { return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count(); }

static const int N = 128, S = N + 2;
static inline size_t at(int i, int j, int k) { return (size_t(k + 1) * S + (j + 1)) * S + (i + 1); }

struct Particle { float x, y, z, age, vx, vy, vz, volume, thick; int id, source, spare; float c[12]; };
using Field = std::vector<float>;

static std::vector<Particle> particles, other;
static std::vector<int> start, keys;
static Field u, v, w, mu, mv, mw, amount, phi, wall, ex, ey, ez;

static void sortParticles() {
  std::fill(start.begin(), start.end(), 0);
  const size_t count = particles.size();
  for (size_t n = 0; n < count; n++) {
    const Particle& p = particles[n];
    const int cell = (int(p.z) * N + int(p.y)) * N + int(p.x);
    keys[n] = cell;
    start[cell + 1]++;
  }
  for (size_t n = 1; n < start.size(); n++) start[n] += start[n - 1];
  static std::vector<int> next;
  next.assign(start.begin(), start.end() - 1);
  for (size_t n = 0; n < count; n++) other[next[keys[n]]++] = particles[n];
  particles.swap(other);
}

static inline void give(Field& sum, Field& weight, float x, float y, float z, float value, const float* c, float volume) {
  const int i = int(std::floor(x)), j = int(std::floor(y)), k = int(std::floor(z));
  const float a = x - i, b = y - j, d = z - k;
  for (int n = 0; n < 8; n++) {
    const float p = n & 1 ? a : 1 - a, q = n & 2 ? b : 1 - b, r = n & 4 ? d : 1 - d;
    const float part = p * q * r * volume;
    const size_t o = at(i + (n & 1), j + ((n >> 1) & 1), k + (n >> 2));
    sum[o] += part * (value + c[0] * ((n & 1) - a) + c[1] * (((n >> 1) & 1) - b) + c[2] * ((n >> 2) - d));
    weight[o] += part;
  }
}

static void deposit() {
  for (Field* f : {&u, &v, &w, &mu, &mv, &mw, &amount}) std::fill(f->begin(), f->end(), 0.0f);
  static const float none[3] = {0, 0, 0};
  static Field ignored(u.size());
  for (const Particle& p : particles) {
    give(u, mu, p.x, p.y - 0.5f, p.z - 0.5f, p.vx, p.c, p.volume);
    give(v, mv, p.x - 0.5f, p.y, p.z - 0.5f, p.vy, p.c + 4, p.volume);
    give(w, mw, p.x - 0.5f, p.y - 0.5f, p.z, p.vz, p.c + 8, p.volume);
    give(ignored, amount, p.x - 0.5f, p.y - 0.5f, p.z - 0.5f, p.thick, none, p.volume);
  }
  for (size_t n = 0; n < u.size(); n++) {
    if (mu[n] > 0) u[n] /= mu[n];
    if (mv[n] > 0) v[n] /= mv[n];
    if (mw[n] > 0) w[n] /= mw[n];
  }
}

static const float R = 1.5f;
static float table[257];

static void distance() {
  for (int k = 0; k < N; k++)
    for (int j = 0; j < N; j++)
      for (int i = 0; i < N; i++) {
        bool any = false, full = true;
        for (int c = 0; c < 27; c++) {
          const int x = i + c % 3 - 1, y = j + (c / 3) % 3 - 1, z = k + c / 9 - 1;
          if (x < 0 || y < 0 || z < 0 || x >= N || y >= N || z >= N) continue;
          const int cell = (z * N + y) * N + x;
          const bool held = start[cell + 1] > start[cell];
          any |= held;
          full &= held;
        }
        float out = any ? (full ? -R : R) : R;
        if (any && !full) {
          float m = 0, dx = 0, dy = 0, dz = 0;
          for (int c = 0; c < 27; c++) {
            const int x = i + c % 3 - 1, y = j + (c / 3) % 3 - 1, z = k + c / 9 - 1;
            if (x < 0 || y < 0 || z < 0 || x >= N || y >= N || z >= N) continue;
            const int cell = (z * N + y) * N + x;
            for (int n = start[cell]; n < start[cell + 1]; n++) {
              const Particle& p = particles[n];
              const float a = p.x - i - 0.5f, b = p.y - j - 0.5f, d = p.z - k - 0.5f;
              const float s = 1 - (a * a + b * b + d * d) / (R * R);
              if (s <= 0) continue;
              const float q = s * s * s * p.volume;
              m += q;
              dx += q * a;
              dy += q * b;
              dz += q * d;
            }
          }
          if (m > 0) out = R * table[int(std::min(1.0f, std::sqrt(dx * dx + dy * dy + dz * dz) / m / R) * 255)];
        }
        phi[at(i, j, k)] = out;
      }
}

static inline float sample(const Field& f, float x, float y, float z) {
  const int i = int(std::floor(x)), j = int(std::floor(y)), k = int(std::floor(z));
  const float a = x - i, b = y - j, c = z - k;
  const float* p = f.data() + at(i, j, k);
  const float v00 = p[0] + a * (p[1] - p[0]), v10 = p[S] + a * (p[S + 1] - p[S]);
  const float* q = p + S * S;
  const float v01 = q[0] + a * (q[1] - q[0]), v11 = q[S] + a * (q[S + 1] - q[S]);
  const float v0 = v00 + b * (v10 - v00), v1 = v01 + b * (v11 - v01);
  return v0 + c * (v1 - v0);
}

static inline float slopes(const Field& f, float x, float y, float z, float* s) {
  const int i = int(std::floor(x)), j = int(std::floor(y)), k = int(std::floor(z));
  const float a = x - i, b = y - j, c = z - k;
  const float* p = f.data() + at(i, j, k);
  const float* q = p + S * S;
  const float x00 = p[1] - p[0], x10 = p[S + 1] - p[S], x01 = q[1] - q[0], x11 = q[S + 1] - q[S];
  const float v00 = p[0] + a * x00, v10 = p[S] + a * x10, v01 = q[0] + a * x01, v11 = q[S] + a * x11;
  const float v0 = v00 + b * (v10 - v00), v1 = v01 + b * (v11 - v01);
  s[0] = (x00 * (1 - b) + x10 * b) * (1 - c) + (x01 * (1 - b) + x11 * b) * c;
  s[1] = (v10 - v00) * (1 - c) + (v11 - v01) * c;
  s[2] = v1 - v0;
  return v0 + c * (v1 - v0);
}

struct V { float x, y, z; };
static inline float inside(float x) { return std::min(std::max(x, 0.0f), N - 0.001f); }
static inline V velocity(float x, float y, float z) {
  x = inside(x), y = inside(y), z = inside(z);
  return {sample(u, x, y - 0.5f, z - 0.5f), sample(v, x - 0.5f, y, z - 0.5f), sample(w, x - 0.5f, y - 0.5f, z)};
}

static void move(float dt) {
  for (Particle& p : particles) {
    const V k1 = {slopes(u, p.x, p.y - 0.5f, p.z - 0.5f, p.c), slopes(v, p.x - 0.5f, p.y, p.z - 0.5f, p.c + 4),
                  slopes(w, p.x - 0.5f, p.y - 0.5f, p.z, p.c + 8)};
    p.vx = k1.x, p.vy = k1.y, p.vz = k1.z;
    const V k2 = velocity(p.x + 0.5f * dt * k1.x, p.y + 0.5f * dt * k1.y, p.z + 0.5f * dt * k1.z);
    const V k3 = velocity(p.x + 0.75f * dt * k2.x, p.y + 0.75f * dt * k2.y, p.z + 0.75f * dt * k2.z);
    float sx = dt * (2 * k1.x + 3 * k2.x + 4 * k3.x) / 9, sy = dt * (2 * k1.y + 3 * k2.y + 4 * k3.y) / 9,
          sz = dt * (2 * k1.z + 3 * k2.z + 4 * k3.z) / 9;
    sx += sample(ex, p.x, p.y - 0.5f, p.z - 0.5f);
    sy += sample(ey, p.x - 0.5f, p.y, p.z - 0.5f);
    sz += sample(ez, p.x - 0.5f, p.y - 0.5f, p.z);
    const float length = std::sqrt(sx * sx + sy * sy + sz * sz);
    float x = p.x + sx, y = p.y + sy, z = p.z + sz;
    // A wall's distance is sampled at the corners of cells.
    const float clear = sample(wall, p.x, p.y, p.z);
    if (clear <= length) {
      const int looks = int(std::ceil(length / 0.25f));
      for (int n = 1; n <= looks; n++) {
        const float part = float(n) / looks;
        if (sample(wall, inside(p.x + part * sx), inside(p.y + part * sy), inside(p.z + part * sz)) < 0) {
          x = p.x + part * sx, y = p.y + part * sy, z = p.z + part * sz;
          break;
        }
      }
    }
    float s[3];
    const float d = slopes(wall, inside(x), inside(y), inside(z), s);
    if (d < 0.02f) {
      const float g = std::sqrt(s[0] * s[0] + s[1] * s[1] + s[2] * s[2]) + 1e-6f;
      x += s[0] / g * (0.02f - d), y += s[1] / g * (0.02f - d), z += s[2] / g * (0.02f - d);
    }
    p.x = std::min(std::max(x, 1.01f), N - 1.01f);
    p.y = std::min(std::max(y, 1.01f), N - 1.01f);
    p.z = std::min(std::max(z, 1.01f), N - 1.01f);
    p.age += dt;
  }
}

int main(int argc, char** argv) {
  const int rounds = argc > 1 ? std::atoi(argv[1]) : 5;
  for (Field* f : {&u, &v, &w, &mu, &mv, &mw, &amount, &phi, &wall, &ex, &ey, &ez}) f->assign(size_t(S) * S * S, 0.0f);
  for (int n = 0; n < 257; n++) table[n] = n / 128.0f - 1;
  for (int k = 0; k < N; k++)
    for (int j = 0; j < N; j++)
      for (int i = 0; i < N; i++) wall[at(i, j, k)] = float(std::min({i, j, k, N - i, N - j, N - k}) - 1);
  uint32_t seed = 1;
  const auto chance = [&] { return ((seed = seed * 1664525u + 1013904223u) >> 8) / 16777216.0f; };
  for (int k = 1; k < 65; k++)
    for (int j = 1; j < 33; j++)
      for (int i = 1; i < 65; i++)
        for (int c = 0; c < 8; c++) {
          Particle p{};
          p.x = i + 0.25f + 0.5f * (c & 1) + 0.25f * (chance() - 0.5f);
          p.y = j + 0.25f + 0.5f * ((c >> 1) & 1) + 0.25f * (chance() - 0.5f);
          p.z = k + 0.25f + 0.5f * (c >> 2) + 0.25f * (chance() - 0.5f);
          p.vx = 0.4f * std::sin(0.1f * p.y), p.vy = -0.3f * std::cos(0.08f * p.x), p.vz = 0.2f;
          p.volume = 0.125f;
          particles.push_back(p);
        }
  other.resize(particles.size());
  keys.resize(particles.size());
  start.resize(size_t(N) * N * N + 1);
  double sorting = 1e30, transfer = 1e30, surface = 1e30, moving = 1e30;
  for (int r = 0; r < rounds; r++) {
    const double a = now();
    sortParticles();
    const double b = now();
    deposit();
    const double c = now();
    distance();
    const double d = now();
    move(1.0f);
    const double e = now();
    sorting = std::min(sorting, b - a), transfer = std::min(transfer, c - b), surface = std::min(surface, d - c), moving = std::min(moving, e - d);
  }
  std::printf("{\"particles\":%zu,\"sorting\":%.9f,\"transfer\":%.9f,\"surface\":%.9f,\"moving\":%.9f}\n", particles.size(), sorting, transfer, surface, moving);
}
