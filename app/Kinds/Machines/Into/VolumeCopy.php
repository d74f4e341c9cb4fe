<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

use App\Kinds\Machines\Disks\VolumeTool;
use App\Kinds\Machines\Order\CannotBring;
use Closure;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\UnableToWrite;
use Kaiseki\Core\Volume\Ext;
use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\Partition;

/**
 * The file system of a machine that is off, copied to this machine, to be changed there: the machine's disk is not touched before the
 * copy is right. The tools are those of e2fsprogs; what they say of themselves is believed only where it is bad.
 */
final readonly class VolumeCopy
{
    private const AT_ONCE = 16 * Blocks::BYTES;

    /** Exit status of e2fsck: repaired, and to be restarted. */
    private const REPAIRED = [0, 1];

    /**
     * @param  string  $name  of the volume: system.2
     * @param  string  $disk  of the machine
     * @param  Partition  $place  where on that disk it lies
     */
    private function __construct(public string $name, public string $disk, public Partition $place, private string $file)
    {
    }

    /**
     * @param  Closure(int): void  $tell  the bytes so far
     *
     * @throws UnableToWrite
     */
    public static function take(string $name, string $disk, NbdDisk $from, Partition $place, string $file, Closure $tell): self
    {
        $to = @fopen($file, 'x+b');
        ($to !== false && chmod($file, 0600) && ftruncate($to, $place->size())) || throw UnableToWrite::open($file, 'The copy of a volume');
        foreach ($from->held() as [$begin, $end]) {
            $end = min($end, $place->from + $place->size());
            for ($at = max($begin, $place->from); $at < $end; $at += strlen($bytes)) {
                $bytes = $from->read($at, min(self::AT_ONCE, $end - $at));
                (fseek($to, $at - $place->from) === 0 && fwrite($to, $bytes) === strlen($bytes)) || throw UnableToWrite::full($file);
                $tell($at - $place->from);
            }
        }
        fclose($to);

        return new self($name, $disk, $place, $file);
    }

    /**
     * What its journal has is written to where it belongs first: written before, it would be written over at the next start.
     *
     * @throws CannotBring if it is not whole then
     */
    public function settle(): void
    {
        $done = VolumeTool::run(['e2fsck', '-E', 'journal_only', '-y'], $this->file);
        in_array($done->exit, self::REPAIRED, true) ||
            throw CannotBring::because("The journal of {$this->name} cannot be played back: e2fsck says: {$done->said()}");
        $this->check('is not whole as it is: it must be repaired first, in the machine');
    }

    /** @throws CannotBring */
    public function check(string $otherwise): void
    {
        $done = VolumeTool::run(['e2fsck', '-f', '-n'], $this->file);
        $done->exit === 0 || throw CannotBring::because("The file system of {$this->name} $otherwise. e2fsck says: {$done->said()}");
    }

    public function files(): FileSystem
    {
        return Ext::on(FileDisk::open($this->file)) ?? throw CannotBring::because(
            "{$this->name} has no file system that files can be brought into: those are ext2 to ext4.",
        );
    }

    public function room(): FreeRoom
    {
        $told = VolumeTool::run(['dumpe2fs', '-h'], $this->file)->output;
        $number = fn (string $what): int => preg_match("/^$what: +(\\d+)$/m", $told, $m) === 1 ? (int) $m[1] : 0;

        return new FreeRoom(
            max(1024, $number('Block size')),
            max(0, $number('Free blocks') - $number('Reserved block count')),
            $number('Free inodes'),
            $number('Inode size') > 128,
        );
    }

    /** @param  list<string>  $commands  of debugfs, whose exit status says nothing: what came of them is read afterwards */
    public function change(array $commands): void
    {
        VolumeTool::run(['debugfs', '-w', '-f', '-'], $this->file, implode("\n", $commands)."\n");
    }

    /**
     * The blocks of the disk that are other ones now, as they are on the disk and as they are to be.
     *
     * @param  Closure(int): void  $tell
     * @return iterable<int, array{string, string}> by number of the block
     */
    public function differences(NbdDisk $now, Closure $tell): iterable
    {
        $copy = FileDisk::open($this->file);
        [$from, $behind] = [$this->place->from, $this->place->from + $this->place->size()];
        for ($at = intdiv($from, self::AT_ONCE) * self::AT_ONCE; $at < $behind; $at += self::AT_ONCE) {
            $was = $now->read($at, self::AT_ONCE);
            $now->ahead($at + self::AT_ONCE, self::AT_ONCE);
            [$first, $last] = [max($at, $from), min($at + strlen($was), $behind)];
            $is = substr_replace($was, $copy->read($first - $from, $last - $first), $first - $at, $last - $first);
            for ($i = 0; $is !== $was && $i < strlen($was); $i += Blocks::BYTES) {
                [$old, $new] = [substr($was, $i, Blocks::BYTES), substr($is, $i, Blocks::BYTES)];
                if ($old !== $new) {
                    yield intdiv($at + $i, Blocks::BYTES) => [$old, $new];
                }
            }
            $tell($last - $from);
        }
    }
}
