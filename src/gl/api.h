#pragma once

// The only place that takes in the API. Everything in src/gl includes this.
#include <epoxy/gl.h>
