// Pixels at edges that are lit at one of their samples: which of their tile they are, and which samples show what is lit there.
uint edge_entry(uint number, uint samples) { return number + 1u + (samples << 9); }
int edge_number(uint entry) { return int(entry & 511u) - 1; }
int edge_samples(uint entry) { return int(entry >> 9); }

// Where a tile's edges are lit, from its corner, by number: in blocks of 4 x 2 pixels, row by row, as many devices shade.
ivec2 place_of_edge(int number) {
  int block = number >> 3;
  return ivec2((block & 3) * 4 + (number & 3), (block >> 2) * 2 + ((number >> 2) & 1));
}
