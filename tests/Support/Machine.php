<?php

declare(strict_types=1);

namespace Tests\Support;

use Symfony\Component\Process\Process;
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

    /** A machine with a table on its one disk, whose second partition holds a tree; a day later a file is another, and one is gone. */
    public static function withFiles(TestCase $test): string
    {
        $scratch = $test->scratch();
        $tree = $scratch->folder('tree');
        foreach (range(1, 60) as $i) {
            $scratch->file("tree/srv/plans/plan $i.csv", str_repeat("berth,$i\n", 40 * $i));
        }
        $scratch->file('tree/etc/machine-id', "4be1\n");
        $scratch->file('tree/bin/large', random_bytes(2_000_000));
        symlink('../etc/machine-id', "$tree/srv/id");
        chmod("$tree/etc/machine-id", 0440);
        $scratch->run('setfacl', '--modify', 'user:70001:rw-,group:daemon:r--', "$tree/srv/plans/plan 3.csv");
        $scratch->run('setfacl', '--modify', 'user:70001:rwx,default:user:70001:r-x', "$tree/srv/plans");
        link("$tree/bin/large", "$tree/bin/second name");
        $raw = $scratch->file('now.raw', '');
        $file = fopen($raw, 'r+b');
        ftruncate($file, 40 << 20);
        fclose($file);
        (new Process(
            ['sfdisk', '--quiet', $raw],
            null,
            null,
            "label: gpt\nstart=2048, size=4096, name=boot\nstart=8192, name=root\n",
        ))->mustRun();
        Disks::qemu('mke2fs', '-q', '-t', 'ext4', '-L', 'root', '-d', $tree, '-E', 'offset='.(4 << 20), $raw, '30M');
        $images = $scratch->folder('images');
        Disks::qemu('qemu-img', 'convert', '-f', 'raw', '-O', 'qcow2', $raw, "$images/planner.disk.full.20261001T020000Z.qcow2");
        $script = "rm \"/srv/plans/plan 7.csv\"\nrm /etc/machine-id\nwrite ".$scratch->file('new', "other\n")." /etc/machine-id\n";
        (new Process(['debugfs', '-w', '-f', '-', "$raw?offset=".(4 << 20)], null, null, $script))->mustRun();
        $top = "$images/planner.disk.incr.20261002T020000Z.qcow2";
        Disks::qemu('qemu-img', 'create', '-q', '-f', 'qcow2', '-F', 'raw', '-b', $raw, $top);
        $rebase = new Process(
            ['qemu-img', 'rebase', '-f', 'qcow2', '-F', 'qcow2', '-b', 'planner.disk.full.20261001T020000Z.qcow2', $top],
            $images,
        );
        $rebase->mustRun();
        $test->kaiseki('adopt', $images, '--as=planner', '--kind=machine');

        return $tree;
    }
}
