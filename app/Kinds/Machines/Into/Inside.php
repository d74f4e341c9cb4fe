<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

use App\Kinds\Machines\Order\CannotBring;
use Kaiseki\Core\Files\OctalEscapes;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\InsideOutcome;
use Kaiseki\Core\Volume\VolumeMark;

/**
 * What is done in a machine that runs by its own shell and tools (POSIX sh, tar, sha256sum, stat, find). The scripts are these; whatever
 * comes from outside is an argument of theirs, and never a part of them.
 */
final readonly class Inside
{
    private const LOOK = 'command -v tar && command -v sha256sum && command -v stat && command -v find && cd "$1" && df -kP . | tail -n 1';

    /** Where file systems are mounted as a whole that have these bytes there: $1 how far from their beginning, $2 how many, $3 in hex. */
    private const MOUNTED = 'while read -r id parent number root at rest; do [ "$root" = / ] || continue; '.
        'name=$(sed -n "s/^DEVNAME=//p" "/sys/dev/block/$number/uevent" 2>/dev/null); name=${name:+/dev/$name}; '.
        'name=${name:-$(echo "${rest#* - }" | cut -d " " -f 2)}; [ -b "$name" ] || continue; '.
        'is=$(dd if="$name" bs=1 skip="$1" count="$2" 2>/dev/null | od -An -v -tx1 | tr -d " \\n"); '.
        '[ "$is" != "$3" ] || printf "%s\\n" "$at"; done </proc/self/mountinfo | head -n 1';

    private const PREPARE = 'umask 077; rm -rf "$1" && mkdir "$1"';

    /** $1 the serial number of a disk, $2 how many of its bytes, $3 where to; 9 if it is not seen in twenty seconds. */
    private const PLUGGED = 'n=0; while [ $n -lt 20 ]; do for is in /sys/block/*/serial; do '.
        'if [ "$(cat "$is" 2>/dev/null)" = "$1" ]; then is=${is%/serial}; head -c "$2" "/dev/${is##*/}" >"$3"; exit $?; fi; done; '.
        'n=$((n + 1)); sleep 1; done; exit 9';

    private const UNPACK = 'cd "$1" && mkdir tree && tar -xzpf archive -C tree && rm archive && cd tree && '.
        'while IFS= read -r line; do touch -d "@${line%% *}" "${line#* }" || exit 1; done <../times';

    private const DIGESTS = 'cd "$1" && if [ -s "$2" ]; then sha256sum -c "$2" >/dev/null; fi';

    private const FACTS = 'cd "$1" && list=$2 && shift 2 && LC_ALL=C && export LC_ALL && '.
        '{ find "$@" ! -type l -exec stat -c "%f %u %g %Y %n" {} +; '.
        'find "$@" -type l -exec sh -c '.self::LINKS.' sh {} +; } | sort >"$list.now"; '.
        'cmp -s "$list.now" "$list" || { diff "$list.now" "$list" | head -n 4; false; }';

    private const LINKS = '"for f do printf \\"link %s %s\\n\\" \\"\\$f\\" \\"\\$(readlink \\"\\$f\\")\\"; done"';

    private const STANDS = '[ -e "$1" ] || [ -L "$1" ]';

    private const MOVE = '[ ! -e "$2" ] && [ ! -L "$2" ] && mv "$1" "$2"';

    private const REMOVE = 'rm -rf "$1"';

    private const PATIENCE = 240;

    public function __construct(private Hypervisor $hypervisor, private string $machine)
    {
    }

    private function run(string $script, string ...$arguments): InsideOutcome
    {
        return $this->hypervisor->runInside($this->machine, ['sh', '-c', $script, 'sh', ...array_values($arguments)], self::PATIENCE);
    }

    private function must(string $what, string $script, string ...$arguments): string
    {
        $came = $this->run($script, ...$arguments);
        $said = mb_strcut(mb_scrub(trim($came->output)), 0, 300);
        $ended = $came->exit === null ? 'it did not end in time' : "it said nothing, and ended with {$came->exit}";
        $came->exit === 0 || throw CannotBring::because("$what: ".($said === '' ? $ended : $said).'.');

        return $came->output;
    }

    /** @return int bytes that are free where a folder lies */
    public function free(string $folder): int
    {
        $said = $this->must("The machine has no folder $folder, or lacks one of the tools for this", self::LOOK, $folder);
        $fields = preg_split('/\s+/', trim((string) strrchr("\n".trim($said), "\n"))) ?: [];

        return 1024 * (int) ($fields[3] ?? 0);
    }

    /** Where the machine has mounted a file system as a whole; null if it has not, or does not tell. */
    public function mounted(VolumeMark $mark): ?string
    {
        $came = $this->run(self::MOUNTED, (string) $mark->at, (string) strlen($mark->bytes), bin2hex($mark->bytes));
        $at = OctalEscapes::undone(rtrim($came->output, "\n"));

        return $came->exit === 0 && str_starts_with($at, '/') && ! str_contains($at, "\0") ? $at : null;
    }

    public function prepare(string $stage): void
    {
        $this->must('No folder can be made there', self::PREPARE, $stage);
    }

    /** @param  resource  $from */
    public function send($from, string $path, \Closure $tell): void
    {
        for ($isNew = true; ($bytes = (string) fread($from, Hypervisor::MOST_WRITTEN)) !== '' || $isNew; $isNew = false) {
            $this->hypervisor->writeInside($this->machine, $path, $bytes, $isNew);
            $tell(strlen($bytes));
        }
    }

    /** @return bool whether a disk of that serial number was there, and so many bytes of it were copied */
    public function copyPlugged(string $serial, int $bytes, string $to): bool
    {
        return $this->run(self::PLUGGED, $serial, (string) $bytes, $to)->exit === 0;
    }

    public function write(string $path, string $bytes): void
    {
        foreach (str_split($bytes, Hypervisor::MOST_WRITTEN) ?: [''] as $i => $piece) {
            $this->hypervisor->writeInside($this->machine, $path, $piece, $i === 0);
        }
    }

    public function unpack(string $stage): void
    {
        $this->must('It cannot be unpacked there', self::UNPACK, $stage);
    }

    public function hasDigests(string $folder, string $list): bool
    {
        return $this->run(self::DIGESTS, $folder, $list)->exit === 0;
    }

    /**
     * @param  list<string>  $names  below the folder
     * @return string|null the first of what is not as the list has it, in the words of diff; null if all is
     */
    public function otherFacts(string $folder, string $list, array $names): ?string
    {
        $came = $this->run(self::FACTS, $folder, $list, ...array_map(fn (string $name): string => "./$name", $names));

        return $came->exit === 0 ? null : mb_strcut(mb_scrub(trim($came->output)), 0, 500);
    }

    public function stands(string $path): bool
    {
        return $this->run(self::STANDS, $path)->exit === 0;
    }

    /** To where nothing is. */
    public function move(string $from, string $to): void
    {
        $this->must("$from cannot be moved to $to", self::MOVE, $from, $to);
    }

    public function remove(string $path): void
    {
        $this->must("$path cannot be removed", self::REMOVE, $path);
    }
}
