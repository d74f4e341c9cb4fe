<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use DateTimeImmutable;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\Process;

/**
 * The berth planner of the ferry line: a machine with a system disk (GPT, a root file system) and a data disk, which lives through six
 * weeks; and the images that another tool made of both each night, as qcow2 chains. Everything in it is made by the ordinary tools.
 */
final class SorrelSoundMachine
{
    private const SYSTEM = 80 << 20;

    private const DATA = 32 << 20;

    /** Where the EFI system partition begins, and the root file system. */
    private const BOOT = 1 << 20;

    private const ROOT = 25 << 20;

    /** What it asks again and again for the tides: an address of documentation (RFC 5737), where nobody is. */
    private const ASKS = 'http://198.51.100.20/tides.csv';

    private const BERTHS = ['Boathouse 1', 'Boathouse 2', 'Pier Nine north', 'Pier Nine south', 'Tern Holm'];

    private const VESSELS = ['Dunlin', 'Sanderling', 'Turnstone', 'Whimbrel'];

    private readonly Randomizer $random;

    /** @var array<string, string> disk => its last image, and the last that a differential rests on */
    private array $last = [];

    /** @var array<string, string> */
    private array $lastFull = [];

    private int $plans = 0;

    /**
     * @param  string  $work  a folder for the disks as they are now
     * @param  string  $images  where the images go
     * @param  GuestSystem|null  $guest  what it is started with; without it, it is not
     */
    public function __construct(
        private readonly string $work,
        private readonly string $images,
        private readonly string $name = 'berth-planner',
        private readonly ?GuestSystem $guest = null,
        int $seed = 20263,
    ) {
        $this->random = new Randomizer(new Mt19937($seed));
    }

    public function begin(DateTimeImmutable $first): void
    {
        $files = new Filesystem;
        $files->mkdir([$this->work, $this->images]);
        $root = "{$this->work}/root";
        $files->mkdir(array_map(fn (string $folder): string => "$root/$folder", ['etc', 'usr/bin', 'var/log', 'srv']));
        $files->dumpFile("$root/etc/hostname", "{$this->name}\n");
        $files->dumpFile("$root/etc/machine-id", bin2hex($this->random->getBytes(16))."\n");
        $uuid = vsprintf('%s%s-%s-%s-%s-%s%s%s', str_split(bin2hex($this->random->getBytes(16)), 4));
        $files->dumpFile("$root/usr/bin/planner", "#!/bin/sh\nexec httpd -f -h /srv\n".bin2hex($this->random->getBytes(400_000)));
        $files->dumpFile("$root/srv/index.html", "<h1>{$this->name}</h1>\n");
        if ($this->guest !== null) {
            $this->guest->enter($root);
            $files->dumpFile("$root/etc/asks", self::ASKS."\n");
        }
        $system = $this->disk('system');
        $this->blank($system, self::SYSTEM);
        $this->run(
            ['sfdisk', '--quiet', $system],
            "label: gpt\nstart=2048, size=49152, type=U, name=boot, attrs=LegacyBIOSBootable\nstart=51200, name=root\n",
        );
        $this->run([
            'mke2fs',
            '-q',
            '-t',
            'ext4',
            '-L',
            'root',
            '-U',
            $uuid,
            '-d',
            $root,
            '-E',
            'offset='.self::ROOT,
            $system,
            (string) intdiv(self::SYSTEM - self::ROOT - (1 << 20), 1024),
        ]);
        $this->run(['mformat', '-i', "$system@@".self::BOOT, '-T', (string) intdiv(24 << 20, 512), '-v', 'BOOT', '::']);
        $this->guest?->makeBootable($system, self::BOOT, $uuid);
        $this->blank($this->disk('data'), self::DATA);
        $this->run(['mke2fs', '-q', '-t', 'ext4', '-L', 'plans', $this->disk('data')]);
        $this->write($this->disk('data'), ['mkdir /plans']);
        $this->day($first);
    }

    /** From so many days before today on: a day's work, and the images of each night. */
    public function live(DateTimeImmutable $today, int $days): void
    {
        $first = $today->modify("-$days days");
        $this->begin($first);
        for ($day = 0; $day < $days; $day++) {
            $at = $first->modify("+$day days");
            $day === 0 || $this->day($at);
            $level = ['Sun' => 'full', 'Wed' => 'diff'][$at->format('D')] ?? 'incr';
            $this->night($at->setTime(23, 10), $day === 0 ? 'full' : $level);
        }
    }

    /** An update that went wrong: what it starts with is cut short. */
    public function breakBy(DateTimeImmutable $at): void
    {
        $this->put('broken', "#!/bin/sh\nupdating init, pl");
        $this->write($this->disk('system').'?offset='.self::ROOT, [
            'rm /sbin/init',
            "write {$this->work}/broken /sbin/init",
            'set_inode_field /sbin/init mode 0100755',
            "set_inode_field /sbin/init mtime @{$at->getTimestamp()}",
        ]);
    }

    /** What is done on it in a day: a new plan, its log, now and then a program. */
    public function day(DateTimeImmutable $day): void
    {
        $plan = "berth,vessel,from,to\n";
        for ($hour = 5; $hour < 23; $hour++) {
            foreach (self::BERTHS as $berth) {
                $vessel = self::VESSELS[$this->random->getInt(0, count(self::VESSELS) - 1)];
                $plan .= sprintf("%s,%s,%02d:%02d,%02d:40\n", $berth, $vessel, $hour, $this->random->getInt(0, 20), $hour);
            }
        }
        $this->put('plan', $plan);
        $this->put('log', $day->format('Y-m-d')." planner: plan made\n".bin2hex($this->random->getBytes(20_000)));
        $name = $day->format('Y-m-d');
        $time = $day->setTime(4, 20)->getTimestamp();
        $this->write($this->disk('data'), ["write {$this->work}/plan /plans/$name.csv", "set_inode_field /plans/$name.csv mtime @$time"]);
        $this->write($this->disk('system').'?offset='.self::ROOT, [
            ...$this->plans++ > 0 ? ['rm /srv/today.csv'] : [],
            "write {$this->work}/plan /srv/today.csv",
            "write {$this->work}/log /var/log/$name.log",
            "set_inode_field /srv/today.csv mtime @$time",
            "set_inode_field /var/log/$name.log mtime @$time",
        ]);
    }

    /** Makes the images of a night: a full, a diff against the last full, or an incr against the last set. */
    public function night(DateTimeImmutable $at, string $level): void
    {
        foreach (['system', 'data'] as $disk) {
            $image = "{$this->name}.$disk.$level.".gmdate('Ymd\THis\Z', $at->getTimestamp()).'.qcow2';
            if ($level === 'full') {
                $this->run(['qemu-img', 'convert', '-c', '-f', 'raw', '-O', 'qcow2', $this->disk($disk), $image]);
                $this->lastFull[$disk] = $image;
            } else {
                // What differs from the base stays in it.
                $this->run(['qemu-img', 'create', '-q', '-f', 'qcow2', '-F', 'raw', '-b', $this->disk($disk), $image]);
                $base = $level === 'diff' ? $this->lastFull[$disk] : $this->last[$disk];
                $this->run(['qemu-img', 'rebase', '-f', 'qcow2', '-F', 'qcow2', '-b', $base, $image]);
            }
            touch("{$this->images}/$image", $at->getTimestamp());
            $this->last[$disk] = $image;
        }
    }

    /** The disks themselves are gone: somebody deleted the machine. */
    public function delete(): void
    {
        (new Filesystem)->remove($this->work);
    }

    /** The disk as it is now, byte by byte. */
    public function disk(string $name): string
    {
        return "{$this->work}/$name.raw";
    }

    private function put(string $name, string $content): void
    {
        (new Filesystem)->dumpFile("{$this->work}/$name", $content);
        chmod("{$this->work}/$name", 0644);
    }

    private function blank(string $disk, int $bytes): void
    {
        (new Filesystem)->touch($disk);
        $file = fopen($disk, 'r+b');
        $file !== false && ftruncate($file, $bytes) && fclose($file);
    }

    /** @param  list<string>  $commands  of debugfs, whose exit status says nothing */
    private function write(string $disk, array $commands): void
    {
        $this->run(['debugfs', '-w', '-f', '-', $disk], implode("\n", $commands)."\n");
    }

    /** @param  list<string>  $command */
    private function run(array $command, string $input = ''): void
    {
        $path = [
            'PATH' => '/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin',
            'MTOOLSRC' => '/dev/null',
            'MTOOLS_SKIP_CHECK' => '1',
        ];
        (new Process($command, $this->images, $path, $input, 300))->mustRun();
    }
}
