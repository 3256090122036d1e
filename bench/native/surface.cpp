// Distance by averaged positions and triangles of a level set as plain C++: particles sorted into cells, each adds to the voxels of a dense grid that it reaches; marching
// cubes over a dense grid, vertices on edges found by an array of three numbers a voxel. One thread, left to the compiler (-O3 -march=native).
// Usage: surface PARTICLES COUNT VOXELSIZE REACH FIELD NX NY NZ TABLE ROUNDS; files of float32 (x y z), float32 (dense, x fastest), the table of polygon-table.ts.
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <vector>

static double now() { return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count(); }

template <class T> static std::vector<T> readAll(const char* path, size_t count) {
  std::vector<T> out(count);
  FILE* f = fopen(path, "rb");
  if (!f || fread(out.data(), sizeof(T), count, f) != count) exit(1);
  fclose(f);
  return out;
}

struct Vertex { float x, y, z, nx, ny, nz; };

static size_t polygons(const std::vector<float>& phi, int nx, int ny, int nz, const std::vector<uint8_t>& table, std::vector<int>& edges, std::vector<Vertex>& vertices, std::vector<uint32_t>& triangles) {
  const size_t sy = nx, sz = size_t(nx) * ny;
  vertices.clear();
  triangles.clear();
  std::fill(edges.begin(), edges.end(), -1);
  auto slope = [&](int i, int j, int k, float* g) {
    const size_t o = k * sz + j * sy + i;
    g[0] = (i + 1 < nx && i > 0) ? phi[o + 1] - phi[o - 1] : 0;
    g[1] = (j + 1 < ny && j > 0) ? phi[o + sy] - phi[o - sy] : 0;
    g[2] = (k + 1 < nz && k > 0) ? phi[o + sz] - phi[o - sz] : 0;
  };
  const size_t step[3] = {1, sy, sz};
  for (int k = 0; k + 1 < nz; k++)
    for (int j = 0; j + 1 < ny; j++)
      for (int i = 0; i + 1 < nx; i++) {
        const size_t o = k * sz + j * sy + i;
        for (int a = 0; a < 3; a++) {
          const float v = phi[o], w = phi[o + step[a]];
          if ((v < 0) == (w < 0)) continue;
          const float t = v / (v - w);
          float g[3], h[3];
          slope(i, j, k, g);
          slope(i + (a == 0), j + (a == 1), k + (a == 2), h);
          Vertex p = {i + (a == 0 ? t : 0), j + (a == 1 ? t : 0), k + (a == 2 ? t : 0), g[0] + t * (h[0] - g[0]), g[1] + t * (h[1] - g[1]), g[2] + t * (h[2] - g[2])};
          const float l = std::sqrt(p.nx * p.nx + p.ny * p.ny + p.nz * p.nz);
          if (l > 0) { p.nx /= l; p.ny /= l; p.nz /= l; }
          edges[3 * o + a] = int(vertices.size());
          vertices.push_back(p);
        }
      }
  auto word = [&](size_t at) { return uint32_t(table[at]) | uint32_t(table[at + 1]) << 8 | uint32_t(table[at + 2]) << 16 | uint32_t(table[at + 3]) << 24; };
  for (int k = 0; k + 2 < nz; k++)
    for (int j = 0; j + 2 < ny; j++)
      for (int i = 0; i + 2 < nx; i++) {
        const size_t o = k * sz + j * sy + i;
        int state = 0;
        for (int c = 0; c < 8; c++) state |= (phi[o + (c & 1) + ((c >> 1) & 1) * sy + (c >> 2) * sz] < 0) << c;
        if (state == 0 || state == 255) continue;
        size_t variant = 0, bit = 1;
        for (int faces = table[8 * state + 4]; faces; faces &= faces - 1) {
          const int f = __builtin_ctz(faces);
          const size_t u = f < 2 ? sy : 1, v = f < 4 ? sz : sy, w = f < 2 ? 1 : f < 4 ? sy : sz, at = o + (f & 1 ? w : 0);
          const float a = phi[at], b = phi[at + u], c = phi[at + u + v], d = phi[at + v];
          if (a < 0 ? a * c > b * d : a * c < b * d) variant |= bit;
          bit <<= 1;
        }
        const size_t at = word(word(8 * state) + 4 * variant);
        for (int n = 0; n < 3 * table[at]; n++) {
          const int e = table[at + 2 + n];
          if (e >= 12) { triangles.push_back(0); continue; }
          const int axis = e >> 2, low = e & 1, high = (e >> 1) & 1;
          const size_t x = axis == 0 ? 0 : low, y = axis == 0 ? low : axis == 1 ? 0 : high, z = axis == 2 ? 0 : high;
          triangles.push_back(edges[3 * (o + x + y * sy + z * sz) + axis]);
        }
      }
  return triangles.size() / 3;
}

static void averaged(const std::vector<float>& places, size_t count, float h, float reach, std::vector<float>& phi, int nx, int ny, int nz, std::vector<int>& cells, std::vector<int>& order) {
  const float over = 1 / h, R = reach * over, cell = R / 1.5f;
  const int cx = int(nx / cell) + 2, cy = int(ny / cell) + 2, cz = int(nz / cell) + 2;
  cells.assign(size_t(cx) * cy * cz + 1, 0);
  order.resize(count);
  auto cellOf = [&](size_t n) { return (size_t(places[3 * n + 2] * over / cell) * cy + size_t(places[3 * n + 1] * over / cell)) * cx + size_t(places[3 * n] * over / cell); };
  for (size_t n = 0; n < count; n++) cells[cellOf(n) + 1]++;
  for (size_t n = 1; n < cells.size(); n++) cells[n] += cells[n - 1];
  std::vector<int> next(cells.begin(), cells.end() - 1);
  for (size_t n = 0; n < count; n++) order[next[cellOf(n)]++] = int(n);
  std::vector<uint8_t> deep(cells.size() - 1, 0);
  for (int k = 1; k + 1 < cz; k++)
    for (int j = 1; j + 1 < cy; j++)
      for (int i = 1; i + 1 < cx; i++) {
        bool all = true;
        for (int c = 0; c < 27 && all; c++) {
          const size_t o = (size_t(k + c / 9 - 1) * cy + (j + (c / 3) % 3 - 1)) * cx + i + c % 3 - 1;
          all = cells[o + 1] > cells[o];
        }
        deep[(size_t(k) * cy + j) * cx + i] = all;
      }
  const float square = R * R;
  const int reachCells = 2;
  for (int k = 0; k < nz; k++)
    for (int j = 0; j < ny; j++)
      for (int i = 0; i < nx; i++) {
        const float x = i + 0.5f, y = j + 0.5f, z = k + 0.5f;
        const int ci = int(x / cell), cj = int(y / cell), ck = int(z / cell);
        float d = 4;
        if (deep[(size_t(ck) * cy + cj) * cx + ci]) d = -4;
        else {
          float mass = 0, mx = 0, my = 0, mz = 0;
          for (int c = std::max(0, ck - reachCells); c <= std::min(cz - 1, ck + reachCells); c++)
            for (int b = std::max(0, cj - reachCells); b <= std::min(cy - 1, cj + reachCells); b++) {
              const size_t row = (size_t(c) * cy + b) * cx;
              const int first = cells[row + std::max(0, ci - reachCells)], last = cells[row + std::min(cx - 1, ci + reachCells) + 1];
              for (int p = first; p < last; p++) {
                const float* q = &places[3 * size_t(order[p])];
                const float dx = q[0] * over - x, dy = q[1] * over - y, dz = q[2] * over - z;
                const float s = 1 - (dx * dx + dy * dy + dz * dz) / square;
                if (s <= 0) continue;
                const float w = s * s * s;
                mass += w; mx += w * dx; my += w * dy; mz += w * dz;
              }
            }
          if (mass > 0) d = std::sqrt(mx * mx + my * my + mz * mz) / mass - 0.246f * R;
        }
        phi[(size_t(k) * ny + j) * nx + i] = std::max(-4.f, std::min(4.f, d));
      }
}

int main(int argc, char** argv) {
  if (argc < 11) return 1;
  const size_t count = atol(argv[2]);
  const int nx = atoi(argv[6]), ny = atoi(argv[7]), nz = atoi(argv[8]), rounds = atoi(argv[10]);
  const std::vector<float> places = readAll<float>(argv[1], 3 * count);
  const std::vector<float> field = readAll<float>(argv[5], size_t(nx) * ny * nz);
  FILE* f = fopen(argv[9], "rb");
  fseek(f, 0, SEEK_END);
  const size_t size = ftell(f);
  fclose(f);
  const std::vector<uint8_t> table = readAll<uint8_t>(argv[9], size);
  std::vector<int> edges(3 * field.size()), cells, order;
  std::vector<Vertex> vertices;
  std::vector<uint32_t> triangles;
  std::vector<float> phi(field.size());
  double polygon = 1e9, distance = 1e9;
  size_t faces = 0;
  for (int r = 0; r < rounds; r++) {
    double t = now();
    faces = polygons(field, nx, ny, nz, table, edges, vertices, triangles);
    polygon = std::min(polygon, now() - t);
    t = now();
    averaged(places, count, atof(argv[3]), atof(argv[4]), phi, nx, ny, nz, cells, order);
    distance = std::min(distance, now() - t);
  }
  printf("{\"polygons\":%.6f,\"distance\":%.6f,\"triangles\":%zu,\"middle\":%.3f}\n", polygon, distance, faces, phi[phi.size() / 2]);
}
