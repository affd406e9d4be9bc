#include "parallel/GiveWay.h"

#include <sys/resource.h>
#include <unistd.h>

namespace seedloom {

void giveWay() {
    // Linux keeps this by thread. Where it is refused, the thread is as quick as others: nothing that anybody could do about it.
    constexpr int kNice = 10;
    (void)setpriority(PRIO_PROCESS, id_t(gettid()), kNice);
}

}  // namespace seedloom
