// Sums over a group of 256.
shared uint sums[256];

// Of those before this one. To be called by all of the group. @see Hillis and Steele, "Data Parallel Algorithms", 1986
uint sum_before(uint value, out uint total) {
  uint i = gl_LocalInvocationIndex;
  sums[i] = value;
  barrier();
  for (uint step = 1u; step < 256u; step *= 2u) {
    uint more = i >= step ? sums[i - step] : 0u;
    barrier();
    sums[i] += more;
    barrier();
  }
  total = sums[255];
  uint before = sums[i] - value;
  barrier();
  return before;
}
