<?php

declare(strict_types=1);

namespace Tests\Support;

use Tests\TestCase;

/** A machine in small: folders of qcow2 images of its disks, made by qemu-img, a set a day. */
final class Machine
{
    public readonly string $folder;

    private int $day = 0;

    /** @var array<string, string> disk => its last image */
    private array $last = [];

    /** @param  array<string, int>  $disks  name => bytes */
    public function __construct(private readonly Scratch $scratch, private readonly array $disks, string $folder = 'images')
    {
        $this->folder = $scratch->folder($folder);
    }

    /**
     * Makes a set of all disks, with what is written to them before.
     *
     * @param  array<string, list<array{string, int, int}>>  $writes  disk => as Disks::write() takes them
     * @return string its name
     */
    public function set(string $level, array $writes, string $format = 'qcow2'): string
    {
        $stamp = sprintf('202610%02dT020000Z', ++$this->day);
        foreach ($this->disks as $disk => $size) {
            $file = "berth.$disk.$level.$stamp.$format";
            $options = $level === 'full' ? [] : ['-b', $this->last[$disk], '-F', 'qcow2'];
            Disks::qemu('qemu-img', 'create', '-q', '-f', $format, ...$options, ...["{$this->folder}/$file", (string) $size]);
            Disks::write("{$this->folder}/$file", $writes[$disk] ?? [], $format);
            $this->last[$disk] = $file;
        }

        return "berth.$level.$stamp";
    }

    public function image(string $set, string $disk): string
    {
        [$name, $level, $stamp] = explode('.', $set);

        return "{$this->folder}/$name.$disk.$level.$stamp.qcow2";
    }

    /** What qemu-img makes of a disk at a set, as a digest. */
    public function digest(string $set, string $disk): string
    {
        $raw = $this->scratch->at("theirs-$disk.raw");
        Disks::qemu('qemu-img', 'convert', '-f', 'qcow2', '-O', 'raw', $this->image($set, $disk), $raw);

        return (string) hash_file('sha256', $raw);
    }

    /** A full, and two increments over it, of a system and a data disk; taken in as "berth". */
    public static function taken(TestCase $test): self
    {
        $machine = new self($test->scratch(), ['system' => 3 << 20, 'data' => 5 << 20]);
        $machine->set('full', ['system' => [['17', 0, 700_000]], 'data' => [['34', 1 << 20, 1 << 20]]]);
        $machine->set('incr', ['system' => [['18', 131072, 65536], ['zero', 262144, 65536]], 'data' => [['35', 4 << 20, 4096]]]);
        $machine->set('incr', ['system' => [['19', 1 << 20, 100_000]], 'data' => []]);
        $test->kaiseki('adopt', $machine->folder, '--as=berth', '--kind=machine');

        return $machine;
    }
}
