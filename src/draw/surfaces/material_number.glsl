// An object's material, with a bit for whether shadows fall on it: Dress::material_numbers.
const uint no_receiver = 0x80000000u;

uint number_of(uint material_number) { return material_number & ~no_receiver; }
bool is_receiver(uint material_number) { return (material_number & no_receiver) == 0u; }
