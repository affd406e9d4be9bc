#pragma once
// What a loom asks others to plug in can vary as its controls do: a list of files for each input.
#include "graph/Edit.h"
#include "publish/FitCheck.h"
#include "vary/Variations.h"

namespace seedloom {

/// The loom with one more control for each input that it asks for (`input_geometry`), of type file and in the section "Inputs", behind the others. The control
/// has the input's name, or that with "_input" behind it where something else is called so, and gives the input's sample; by default it is the sample that is
/// there now, of the first node where several ask for the same. An input whose sample a control gives already varies with that one. Asked for again, it
/// changes nothing.
Loom withInputsAsControls(const Loom& loom);
FitSubject withInputsAsControls(FitSubject subject);

/// `values` put to use in the loom itself: those of controls, with the others by default, and those that withInputsAsControls() has beside them as samples.
Edit useVaried(const Loom& loom, const ControlValues& values);

/// A pack reaches nothing but what is in it: this one may read the files that `variations` name, too, from `folder` where their paths are relative. They are
/// absolute afterwards.
void letReadFiles(FitSubject& pack, std::vector<Variation>& variations, const std::filesystem::path& folder);

}  // namespace seedloom
