<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use FFI;

/**
 * A filter of system calls (seccomp(2)) from which there is no way back: what is refused answers EPERM from then on, in this
 * process and those it begins. Numbers are those of x86_64 (asm/unistd_64.h); on another machine no filter is set.
 */
final class SystemCalls
{
    /** Other programs, other name spaces, connections, and what gives a hold of the kernel or of other processes. */
    public const NEVER = [
        'execve' => 59,
        'execveat' => 322,
        'connect' => 42,
        'ptrace' => 101,
        'mount' => 165,
        'umount2' => 166,
        'pivot_root' => 155,
        'chroot' => 161,
        'unshare' => 272,
        'setns' => 308,
        'clone3' => 435,
        'bpf' => 321,
        'keyctl' => 250,
        'add_key' => 248,
        'request_key' => 249,
        'io_uring_setup' => 425,
        'process_vm_readv' => 310,
        'process_vm_writev' => 311,
        'userfaultfd' => 323,
        'open_by_handle_at' => 304,
        'perf_event_open' => 298,
        'init_module' => 175,
        'finit_module' => 313,
        'kexec_load' => 246,
        'open_tree' => 428,
        'move_mount' => 429,
        'fsopen' => 430,
        'pidfd_open' => 434,
        'setuid' => 105,
        'setgid' => 106,
        'setgroups' => 116,
        'setresuid' => 117,
        'setresgid' => 119,
        'capset' => 126,
    ];

    /** What the process that answers one wire needs no more. */
    public const OF_ONE_WIRE = [
        'socket' => 41,
        'accept' => 43,
        'bind' => 49,
        'listen' => 50,
        'clone' => 56,
        'fork' => 57,
        'vfork' => 58,
        'kill' => 62,
        'tkill' => 200,
        'tgkill' => 234,
        'accept4' => 288,
    ];

    private const PR_SET_SECCOMP = 22;

    private const PR_SET_NO_NEW_PRIVS = 38;

    private const MODE_FILTER = 2;

    private const AUDIT_ARCH_X86_64 = 0xC000003E;

    /** From linux/bpf_common.h and linux/seccomp.h. */
    private const LOAD = 0x20;

    private const JUMP_IF_EQUAL = 0x15;

    private const RETURN = 0x06;

    private const ALLOW = 0x7FFF0000;

    private const ANSWER_EPERM = 0x00050001;

    private const KILL = 0x80000000;

    /**
     * @param  array<string, int>  $calls  name => number
     * @return bool whether there is a filter now
     */
    public static function refuse(array $calls): bool
    {
        if (php_uname('m') !== 'x86_64') {
            return false;
        }
        $c = FFI::cdef(
            <<<'C'
            typedef struct { uint16_t code; uint8_t if_so, if_not; uint32_t value; } step;
            typedef struct { uint16_t count; step *steps; } program;
            int prctl(int option, unsigned long a, ...);
            C
            ,
            'libc.so.6',
        );
        $steps = self::steps(array_values($calls));
        $memory = $c->new('step['.count($steps).']');
        foreach ($steps as $i => [$code, $value, $ifSo, $ifNot]) {
            $memory[$i]->code = $code;
            $memory[$i]->value = $value;
            $memory[$i]->if_so = $ifSo;
            $memory[$i]->if_not = $ifNot;
        }
        $program = $c->new('program');
        $program->count = count($steps);
        $program->steps = FFI::addr($memory[0]);
        $c->prctl(self::PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0);

        return $c->prctl(self::PR_SET_SECCOMP, self::MODE_FILTER, FFI::addr($program)) === 0;
    }

    /**
     * @param  list<int>  $numbers
     * @return list<array{int, int, int, int}> what is done, with what, and how many steps are left out if so and if not
     */
    private static function steps(array $numbers): array
    {
        $steps = [
            [self::LOAD, 4, 0, 0], // the machine
            [self::JUMP_IF_EQUAL, self::AUDIT_ARCH_X86_64, 1, 0],
            [self::RETURN, self::KILL, 0, 0],
            [self::LOAD, 0, 0, 0], // the call
        ];
        foreach ($numbers as $i => $number) {
            $steps[] = [self::JUMP_IF_EQUAL, $number, count($numbers) - $i, 0];
        }

        return [...$steps, [self::RETURN, self::ALLOW, 0, 0], [self::RETURN, self::ANSWER_EPERM, 0, 0]];
    }
}
