// How much of a light gets past what casts shadows.
#include "periscena/shadow_parts.glsl"

const int FILTER_LINEAR = 0, FILTER_GAUSSIAN = 1, FILTER_DISC = 2, FILTER_CONTACT = 3;

// Those that the pass' shadows have: what is not there costs nothing, and not all drivers step over what does not run.
#define GAUSSIAN_BIT 2
#define DISC_BIT 4
#define CONTACT_BIT 8
#ifndef SHADOW_FILTERS
#define SHADOW_FILTERS 7
#endif

// One light's map or maps; the same as ShadowBlock.
struct Shadow {
  int first_part;    // of shadow_parts: of cascades from the finest on; of all round the faces of a cube
  int part_count;    // 0: the light casts no shadows
  int map;           // that the parts lie in, from 1
  int filtering;
  float radius;      // texels that the filter reaches
  float lift;        // texels that points are lifted along their normal; negative: as many as it takes
  float bias;        // metres that they are moved towards the light
  float slope_bias;  // texels that they are, times the tangent of the angle between normal and light
  float fades;       // 1: the last part does not hold all casters, so its shadows fade at its edge
  int all_round;     // 1: parts look to +x, -x, +y, -y, +z and -z from one place
  float light_size;  // of contact: of a far light the tangent of half its angle, else metres of its radius
  float unused;
};
#ifdef FEW_SHADOWS
layout(std140, binding = FEW_SHADOWS_BLOCK) uniform FewShadows { Shadow shadows[FEW_SHADOWS]; };
#else
layout(std430, binding = SHADOW_STORAGE) readonly buffer Shadows { Shadow shadows[]; };
#endif

// ONE_MAP: the pass has one shadow alone, of a far light, in one map that holds all casters; compilers leave out what else there
// may be. (Not for cascades: lavapipe of Mesa 22.3 crashes at what they become with constant numbers of parts.)
#ifdef ONE_MAP
#define SHADOW_NUMBER(number) 1
#define IS_ALL_ROUND(shadow) false
#define FIRST_PART(shadow) 0
#define PART_COUNT(shadow) 1
#define MAP_OF(shadow) 1
#define HOLDS_ALL(shadow) true
#else
#define SHADOW_NUMBER(number) (number)
#define IS_ALL_ROUND(shadow) ((shadow).all_round != 0)
#define FIRST_PART(shadow) (shadow).first_part
#define PART_COUNT(shadow) (shadow).part_count
#define MAP_OF(shadow) (shadow).map
#define HOLDS_ALL(shadow) ((shadow).fades == 0.0)
#endif

#include "periscena/shadow_maps.glsl"

vec3 place_in_part(ShadowPart part, vec3 position) {
  vec4 place = part.to_map * vec4(position, 1.0);
#ifdef ONE_MAP
  return place.xyz;  // w is 1
#else
  return place.xyz / place.w;
#endif
}

vec3 axis_of(ShadowPart part) {  // 0 where light is parallel
  return vec3(part.to_map[0].w, part.to_map[1].w, part.to_map[2].w);
}

bool is_parallel(ShadowPart part) {
#ifdef ONE_MAP
  return true;
#else
  return dot(axis_of(part), axis_of(part)) == 0.0;
#endif
}

// A place to look up, and how depth changes over the map on the plane that it lies on, so that filters follow the plane
// instead of taking it for its own shadow.
struct ShadowPlace {
  vec3 at;
  vec2 slope;  // depth by texture coordinates
  float layer;
};

// The map knows one depth for each texel, and a comparison between four takes in texels whose middles are up to sqrt(2)
// texels away: rays from the light that meet the plane across the map's axis at the point's distance off by some o, at most
// sqrt(2) texels long. A point q that was lifted off its plane by d along its normal n is not hidden by the plane on such a
// ray when d >= -dot(n, o): with the light at the origin, the plane is dot(n, x) = dot(n, q) - d, and the ray meets the plane
// at w (dot(n, q) - d) / (dot(n, q) + dot(n, o)) along the axis, w being q's. o is square to the axis, so
// d = sqrt(2) texels times the sine of the angle between normal and axis is just enough; rays of a far light are parallel,
// and its axis is the light's direction. A tenth of a texel more is for rounding.
ShadowPlace place_in_part(Shadow shadow, ShadowPart part, vec3 position, vec3 normal, vec3 to_light) {
#ifdef ONE_MAP
  float texel = part.texel;
#else
  float texel = part.texel * (part.to_map * vec4(position, 1.0)).w;
#endif
  float cosine = dot(normal, to_light), sine = sqrt(max(dot(normal, normal) - cosine * cosine, 0.0));
  float tangent = sine / max(cosine, 0.01);
  if (!is_parallel(part)) sine = length(cross(normal, axis_of(part)));
  float lift = texel * (shadow.lift < 0.0 ? 1.4142136 * sine + 0.1 : shadow.lift);
  float bias = shadow.bias + shadow.slope_bias * texel * tangent;
  ShadowPlace place;
#ifdef ONE_MAP
  // Moved in the map instead of in the world: towards the light is along its depth alone.
  vec3 turned = mat3(part.to_map) * normal, third_row = vec3(part.to_map[0].z, part.to_map[1].z, part.to_map[2].z);
  place.at = place_in_part(part, position) + turned * lift;
  place.at.z += bias * dot(third_row, to_light);
#else
  vec3 lifted = position + normal * lift + to_light * bias;
  place.at = place_in_part(part, lifted);
#endif
  place.layer = part.layer;
  place.slope = vec2(0.0);
  if (shadow.filtering == FILTER_LINEAR || normal == vec3(0.0)) return place;  // in the air, there is no plane
#ifdef ONE_MAP
  // Rows of to_map are square to each other, so a way d is the sum of row · d / |row|² times the row, over all three, and on the
  // plane dot(n, d) = 0 says how much of the third there is to some of the first and of the second.
  vec3 n_by_row = turned * part.over_squares.xyz;
  if (n_by_row.z != 0.0) place.slope = -n_by_row.xy / n_by_row.z * min(1.0, 10.0 / tangent);
#else
  // Two steps on the plane, and the depth that they change by.
  vec3 across = normalize(abs(normal.y) < 0.9 ? vec3(-normal.z, 0.0, normal.x) : vec3(0.0, normal.z, -normal.y));
  vec3 a = place_in_part(part, lifted + across * texel) - place.at;
  vec3 b = place_in_part(part, lifted + cross(normal, across) * texel) - place.at;
  float area = a.x * b.y - a.y * b.x;
  // Where light grazes the plane, depth would change without end: no more than if it fell in at 84 degrees.
  if (area != 0.0) place.slope = vec2(a.z * b.y - b.z * a.y, a.x * b.z - b.x * a.z) / area * min(1.0, 10.0 / tangent);
#endif
  return place;
}

float compare_at(int number, ShadowPlace place, vec2 offset) {
  // Behind all casters there are shadows still.
  float depth = max(place.at.z + dot(place.slope, offset), 0.0);
  return compare_with_map(number, vec4(place.at.xy + offset, place.layer, depth));
}

// Of the four texels around a place.
vec4 compare_around(int number, ShadowPlace place, vec2 middle) {
  return compare_four(number, vec3(middle, place.layer), max(place.at.z + dot(place.slope, middle - place.at.xy), 0.0));
}

// The mean of comparisons at whole texels up to `radius` away, weighted by w(i) w(j). Along each axis, a comparison
// between texels is (1 - f) T(k) + f T(k + 1), so that all of them together weigh texel m with
// (1 - f) w(m) + f w(m - 1); and two by two of them are one fetch. So radius + 1 fetches do instead of 2 radius + 1, along
// each axis.
//
// What texels m and m + 1 weigh; f is how far the place is from one texel to the next. A bell whose standard deviation is
// half of the filter's width: what it would reach beyond is left out. Returns the sum of both.
float bell_weights(float radius, int m, vec2 f, out vec2 first, out vec2 second) {
  vec3 away = abs(float(m) + vec3(-1.0, 0.0, 1.0));
  vec3 w = exp2(-2.885390 * away * away / ((radius + 1.0) * (radius + 1.0))) * step(away, vec3(radius));
  first = (1.0 - f) * w.y + f * w.x;
  second = (1.0 - f) * w.z + f * w.y;
  return w.y + w.z;
}

#ifdef BELL_RADIUS
// All of the pass reach as far, so that weights are numbers, and those of columns are reckoned once.
float gaussian_share(int number, Shadow shadow, ShadowPlace place) {
  vec2 size = map_size(number);
  vec2 texels = place.at.xy * size - 0.5, base = floor(texels), f = texels - base, pixel = 1.0 / size;
  const int fetches = BELL_RADIUS + 1;
  vec2 first[fetches], second[fetches];
  float whole = 0.0, lit = 0.0;
  for (int i = 0; i < fetches; ++i) whole += bell_weights(float(BELL_RADIUS), 2 * i - BELL_RADIUS, f, first[i], second[i]);
  for (int i = 0; i < fetches; ++i) {
    for (int k = 0; k < fetches; ++k) {
      vec4 four = compare_around(number, place, (base + vec2(2 * k, 2 * i) + float(1 - BELL_RADIUS)) * pixel);
      lit += dot(four, vec4(first[k].x, second[k].x, second[k].x, first[k].x) * vec4(second[i].yy, first[i].yy));
    }
  }
  return lit / (whole * whole);
}
#else
float gaussian_share(int number, Shadow shadow, ShadowPlace place) {
  vec2 size = map_size(number);
  vec2 texels = place.at.xy * size - 0.5, base = floor(texels), f = texels - base, pixel = 1.0 / size;
  int radius = int(shadow.radius);
  float whole = 0.0, lit = 0.0;
  // No tables: some drivers keep what is indexed by a variable in memory.
  for (int m = -radius; m <= radius; m += 2) {
    vec2 first, second, across_first, across_second;
    whole += bell_weights(shadow.radius, m, f, first, second);
    for (int k = -radius; k <= radius; k += 2) {
      bell_weights(shadow.radius, k, f, across_first, across_second);
      vec4 four = compare_around(number, place, (base + vec2(k, m) + 1.0) * pixel);
      lit += dot(four, vec4(across_first.x, across_second.x, across_second.x, across_first.x) * vec4(second.yy, first.yy));
    }
  }
  return lit / (whole * whole);
}
#endif

// Sixteen places on a disc, by the golden angle, turned from pixel to pixel so that bands become fine grain.
// Turning: Jimenez, "Next Generation Post Processing in Call of Duty: Advanced Warfare", SIGGRAPH 2014.
#ifndef PIXEL_HERE
#define PIXEL_HERE ivec2(gl_FragCoord.xy)
#endif

float turn_here() {
  return 6.2831853 * fract(52.9829189 * fract(dot(vec2(PIXEL_HERE) + 0.5, vec2(0.06711056, 0.00583715))));
}

vec2 on_disc(int i, float turn) {
  float angle = turn + 2.3999632 * float(i);
  return sqrt((float(i) + 0.5) / 16.0) * vec2(cos(angle), sin(angle));
}

float disc_share(int number, float radius, ShadowPlace place) {
  float turn = turn_here();
  vec2 reach = radius / map_size(number);
  float lit = 0.0;
  for (int i = 0; i < 16; ++i) lit += compare_at(number, place, reach * on_disc(i, turn));
  return lit / 16.0;
}

#if SHADOW_FILTERS & CONTACT_BIT
// Metres from the light, along the part's axis.
float distance_of(ShadowPart part, bool parallel, float depth) {
  if (parallel) return mix(part.far, part.near, depth);
  return part.near * part.far / (part.near + depth * (part.far - part.near));
}

// What is in the way, on the mean of those places of a disc where something is, is some way before the point; by similar
// triangles the light's width makes its edge that wide. As far as the disc goes, but no less than a texel, that is filtered.
// After Fernando, "Percentage-Closer Soft Shadows", SIGGRAPH 2005 sketches.
float contact_share(int number, Shadow shadow, ShadowPart part, ShadowPlace place) {
  bool parallel = is_parallel(part);
  float turn = turn_here(), sum = 0.0, found = 0.0;
  vec2 reach = shadow.radius / map_size(number);
  for (int i = 0; i < 16; ++i) {
    vec2 offset = reach * on_disc(i, turn);
    float depth = map_depth(number, vec3(place.at.xy + offset, place.layer));
    if (depth <= max(place.at.z + dot(place.slope, offset), 0.0)) continue;
    sum += distance_of(part, parallel, depth);
    found += 1.0;
  }
  if (found == 0.0) return compare_at(number, place, vec2(0.0));
  float blocker = sum / found, here = distance_of(part, parallel, place.at.z);
  float spread = parallel ? shadow.light_size : shadow.light_size / max(blocker, part.near);
  float texels = max(here - blocker, 0.0) * spread / (parallel ? part.texel : part.texel * here);
  return disc_share(number, clamp(texels, 1.0, shadow.radius), place);
}
#endif

float share_in_part(Shadow shadow, ShadowPart part, vec3 position, vec3 normal, vec3 to_light) {
  int number = MAP_OF(shadow);
  ShadowPlace place = place_in_part(shadow, part, position, normal, to_light);
#if SHADOW_FILTERS == GAUSSIAN_BIT
  return gaussian_share(number, shadow, place);
#else
#if SHADOW_FILTERS & GAUSSIAN_BIT
  if (shadow.filtering == FILTER_GAUSSIAN) return gaussian_share(number, shadow, place);
#endif
#if SHADOW_FILTERS & DISC_BIT
  if (shadow.filtering == FILTER_DISC) return disc_share(number, shadow.radius, place);
#endif
#if SHADOW_FILTERS & CONTACT_BIT
  if (shadow.filtering == FILTER_CONTACT) return contact_share(number, shadow, part, place);
#endif
  return compare_at(number, place, vec2(0.0));
#endif
}

// Of a part's half: how far inside of its usable square a point is; negative outside. Parts that fade are drawn up to their far
// plane: what casts behind it is not in their map, so that they know nothing of what is there.
float depth_inside(Shadow shadow, ShadowPart part, vec2 border, vec3 position) {
  vec4 place = part.to_map * vec4(position, 1.0);
  if (place.w <= 0.0) return -1.0;
  vec2 from_edge = 0.5 - abs((place.xy / place.w - part.tile.xy) / part.tile.zw - 0.5) - border;
  float inside = min(from_edge.x, from_edge.y);
  if (shadow.fades > 0.0) inside = min(inside, place.z * (part.far - part.near) / (part.texel * map_size(MAP_OF(shadow)).x * part.tile.z));
  return 2.0 * inside;
}

// Which face of a cube around a light looks that way.
int face_towards(vec3 way) {
  vec3 extent = abs(way);
  if (extent.x >= extent.y && extent.x >= extent.z) return way.x > 0.0 ? 0 : 1;
  if (extent.y >= extent.z) return way.y > 0.0 ? 2 : 3;
  return way.z > 0.0 ? 4 : 5;
}

// The part that shades a point, and how large its texels are there; the first of two that are blended.
struct ShadowPartAt {
  int number;   // from 0; -1: none does
  float texel;  // metres
};

ShadowPartAt part_at(int number, vec3 position, vec3 to_light) {
  Shadow shadow = shadows[SHADOW_NUMBER(number) - 1];
  int first = IS_ALL_ROUND(shadow) ? face_towards(-to_light) : 0;
  bool holds_all = HOLDS_ALL(shadow);
  vec2 border = shadow.fades * (shadow.radius + 1.0) / map_size(MAP_OF(shadow));
  for (int i = first; i < PART_COUNT(shadow); ++i) {
    ShadowPart part = shadow_parts[FIRST_PART(shadow) + i];
    if (holds_all || depth_inside(shadow, part, border, position) >= 0.0)
      return ShadowPartAt(i, part.texel * (part.to_map * vec4(position, 1.0)).w);
  }
  return ShadowPartAt(-1, 0.0);
}

// 0 in full shadow, 1 where nothing is in the way. number: of the light's shadow, from 1. normal: length 1, or 0 for a point
// in the air; to_light: length 1.
float light_past(int number, vec3 position, vec3 normal, vec3 to_light) {
  Shadow shadow = shadows[SHADOW_NUMBER(number) - 1];
  if (PART_COUNT(shadow) == 0) return 1.0;
#ifdef ONE_MAP
  return share_in_part(shadow, shadow_parts[0], position, normal, to_light);  // empty at its edge, and so is all beyond
#else
  // Faces are a little wider than a quarter turn, so that filters stay on them. Maps that hold all casters are empty at their
  // edge, and so is all beyond; of others, filters must not look beyond. One loop for all: some drivers run what is not taken.
  bool all_round = IS_ALL_ROUND(shadow);
  int first = all_round ? face_towards(-to_light) : 0, end = all_round ? first + 1 : PART_COUNT(shadow);
  vec2 border = shadow.fades * (shadow.radius + 1.0) / map_size(MAP_OF(shadow));
  float lit = 1.0, left = 1.0;
  for (int i = first; i < end && left > 0.0; ++i) {
    ShadowPart part = shadow_parts[FIRST_PART(shadow) + i];
    float inside = all_round ? 1.0 : depth_inside(shadow, part, border, position);
    if (inside < 0.0) continue;
    // Seams are blended over a tenth of the way to the middle; where all casters are in view, there is nothing beyond.
    bool last = i + 1 == end;
    float share = last && HOLDS_ALL(shadow) ? 1.0 : clamp(10.0 * inside, 0.0, 1.0);
    lit += left * share * (share_in_part(shadow, part, position, normal, to_light) - 1.0);
    left *= 1.0 - share;
  }
  return lit;
#endif
}
