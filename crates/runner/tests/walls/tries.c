/* Tries what a fault in the engine's memory could be made to try. Takes a file with the filter, or `-` for none, and what
   to try; ends with 0 where that was let through, 1 where it was refused, and by SIGSYS where the walls ended it. */
#include <errno.h>
#include <fcntl.h>
#include <linux/filter.h>
#include <linux/seccomp.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/prctl.h>
#include <sys/ptrace.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <unistd.h>

static struct sock_filter filter[4096];

static void put_up(const char *file) {
    FILE *from = fopen(file, "rb");
    if (!from) exit(9);
    size_t count = fread(filter, sizeof filter[0], 4096, from);
    fclose(from);
    struct sock_fprog program = {.len = (unsigned short)count, .filter = filter};
    if (count == 0 || prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0)) exit(9);
    if (syscall(SYS_seccomp, SECCOMP_SET_MODE_FILTER, 0, &program)) exit(9);
}

int main(int argc, char **argv) {
    if (argc != 3) return 9;
    const char *what = argv[2];
    char environment[64];
    pid_t parent = getppid();
    snprintf(environment, sizeof environment, "/proc/%d/environ", parent);
    if (strcmp(argv[1], "-")) put_up(argv[1]);
    long got = -1;
    if (!strcmp(what, "environment")) got = open(environment, O_RDONLY);
    else if (!strcmp(what, "file")) got = open("/etc/hostname", O_RDONLY);
    else if (!strcmp(what, "new-file")) got = open("made-here", O_CREAT | O_WRONLY, 0600);
    else if (!strcmp(what, "socket")) got = socket(AF_INET, SOCK_STREAM, 0);
    else if (!strcmp(what, "local-socket")) got = socket(AF_UNIX, SOCK_STREAM, 0);
    else if (!strcmp(what, "attach")) got = ptrace(PTRACE_TRACEME, 0, 0, 0);
    else if (!strcmp(what, "signal")) got = kill(parent, 0);
    else if (!strcmp(what, "fork")) { got = fork(); if (got == 0) _exit(0); }
    else if (!strcmp(what, "execute")) got = execl("/bin/true", "true", (char *)0);
    else if (!strcmp(what, "other-descriptor")) got = write(2, "x", 1);
    else if (!strcmp(what, "read-memory")) got = syscall(SYS_process_vm_readv, parent, 0, 0, 0, 0, 0);
    else if (!strcmp(what, "say")) got = write(1, "x", 1);
    else return 9;
    _exit(got < 0 ? 1 : 0);
}
