// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

class QThreadPool;

namespace stone
{

/// The threads on which the window has long work done. Not Qt's own pool: painting hands its larger fills to that one and waits
/// for them, so that a render or a look for findings there holds up every picture until it is done. It has more threads than
/// there are processors, so that what takes a moment does not wait for what takes minutes. Any thread.
QThreadPool& workPool();

} // namespace stone
