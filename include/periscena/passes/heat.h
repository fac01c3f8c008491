#pragma once

#include <periscena/passes/options.h>

namespace periscena::passes {

/// Shows numbers as colours, from cold (dark blue) over green and amber to hot (white): lights that a pixel asked,
/// surfaces that were drawn over it. A strip along the lower edge shows the colours of 0 to `most`.
///
/// Needs: numbers in the red channel of a floating format. Gives: linear 0..1.
struct Heat {
  std::string name = "heat";
  float most = 16;         ///< the number of the hottest colour, > 0
  float strength = 0.85f;  ///< 0..1: how much of the picture below is covered, where the number is not 0
  TargetUse amount = {};
  TargetUse under = {};  ///< a picture that shows through in grey; empty: black
  TargetUse color = {};
};

Pass heat(const Heat& options, Place place = Place::here());

PassKind heat_kind();

}  // namespace periscena::passes
