// SPDX-License-Identifier: MPL-2.0
#include "project/document.h"
#include "project/list_members.h"

namespace stone
{

template class List<Emitter>;
template class List<Zone>;
template class List<Room>;
template class List<Opening>;
template class List<Walk>;
template class List<Plant>;
template class List<Post>;
template class List<Level>;
template class List<Sound>;
template class List<Falloff>;
template class List<Family>;
template class List<Pattern>;
template class List<GameValue>;
template class List<Signal>;
template class List<Rig>;
template class List<Gaze>;
template class List<SoundTarget>;

} // namespace stone
