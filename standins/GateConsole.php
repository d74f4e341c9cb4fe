<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use Kaiseki\Core\Machine\FileDisk;
use Kaiseki\Core\Metal\Content;
use Kaiseki\Core\Metal\ContentKind;
use Kaiseki\Core\Metal\GroupHead;
use Kaiseki\Core\Metal\LayoutProposal;
use Kaiseki\Core\Metal\LayoutReading;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\RecordedGroup;
use Kaiseki\Core\Metal\RecordedVolume;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\Metal\TargetMachine;
use Kaiseki\Core\Volume\VolumeGroup;
use RuntimeException;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\Process;

/**
 * The second console at the gate: a machine that nobody reaches as a hypervisor would, with UEFI and two disks, the second with the files
 * of a database; its root lies on a volume group, which has room for snapshots. It starts what lies in /etc/start.d, among that the agent
 * that makes its sets from inside.
 */
final class GateConsole
{
    public const SYSTEM = 'GATE-SYS-2';

    public const DATA = 'GATE-DATA-2';

    public const CREW = 'GATE-CREW-2';

    /** Bytes of its disks. */
    public const DISKS = [self::SYSTEM => 180 << 20, self::DATA => 32 << 20];

    /** Where the EFI system partition begins, and what its volume group lies on. */
    private const BOOT = 1 << 20;

    private const GROUP = 25 << 20;

    /** Bytes of what that has; of it some are free, for snapshots. */
    private const VOLUMES = ['root' => 76 << 20, 'swap' => 14 << 20];

    /** Of the agent's rules: what its database does is kept by sets of its own. */
    private const RULES =
        "exclude /srv/database/* has sets of its own\nexclude /run/* passing\nexclude /var/lib/uptime changes all the time\n";

    public readonly BareMachine $machine;

    /** @param  string|null  $crew  the image of a Btrfs with a subvolume "sub", which a third disk holds then */
    public function __construct(private readonly string $folder, private readonly GuestSystem $guest, private readonly ?string $crew = null)
    {
        $this->machine = new BareMachine($folder, self::DISKS + ($crew === null ? [] : [self::CREW => (int) filesize($crew)]), 'uefi');
    }

    /**
     * Lays its disks out, and fills them.
     *
     * @param  string  $agent  the file that its desk gave for it
     * @param  array<string, string>  $files  others that are there from the beginning, by their paths
     */
    public function begin(string $agent, array $files = []): void
    {
        $root = "{$this->folder}/root";
        $file = new Filesystem;
        foreach ([
            'etc/hostname' => "gate-console-2\n",
            'etc/machine-id' => md5($this->folder)."\n",
            'etc/fstab' => "LABEL=gate-root / ext4 defaults 0 1\nLABEL=GATE-EFI /boot/efi vfat defaults 0 2\n".
                "LABEL=gate-data /srv/database ext4 defaults 0 2\nLABEL=gate-swap none swap sw 0 0\n",
            'root/kaiseki-agent.sh' => $agent,
            'etc/kaiseki-agent/rules' => self::RULES,
            'srv/index.html' => "<h1>gate-console-2</h1>\n",
            'etc/start.d/mounts' => self::mounts().($this->crew === null ? '' : self::MOUNTS_OF_CREW),
            'etc/start.d/sets' => "sleep 1\n[ -e /etc/kaiseki-agent/token ] || dash /root/kaiseki-agent.sh install\n".
                "exec dash /root/kaiseki-agent.sh run\n",
            ...$files,
        ] as $path => $content) {
            $file->dumpFile("$root/$path", $content);
        }
        $file->mkdir(["$root/boot/efi", "$root/srv/database", "$root/srv/crew", "$root/srv/sub", "$root/srv/again"]);
        $this->crew === null || $file->copy($this->crew, $this->machine->disk(self::CREW), true);
        $this->guest->enter($root);
        $this->guest->equip($root);
        $this->guest->group($root);
        $this->crew === null || $this->guest->reads($root, 'btrfs');
        $system = $this->machine->disk(self::SYSTEM);
        $this->run(['sfdisk', '--quiet', $system], implode("\n", [
            'label: gpt', 'start=2048, size=49152, type=U, name=boot, attrs=LegacyBIOSBootable',
            'start='.(self::GROUP >> 9).', size='.((154 << 20) >> 9).', type=V, name=volumes',
        ])."\n");
        $uuid = vsprintf('%s%s-%s-%s-%s-%s%s%s', str_split(md5($this->folder.'root'), 4));
        $at = $this->group($system);
        $this->run([
            'mke2fs', '-q', '-t', 'ext4', '-L', 'gate-root', '-U', $uuid, '-d', $root, '-E', "offset={$at['root']}", $system,
            (string) (self::VOLUMES['root'] >> 10),
        ]);
        $swap = "{$this->folder}/swap";
        $this->run(['truncate', '-s', (string) self::VOLUMES['swap'], $swap]);
        $this->run(['mkswap', '-q', '-L', 'gate-swap', $swap]);
        $this->run(['dd', "if=$swap", "of=$system", 'bs=1M', 'oflag=seek_bytes', "seek={$at['swap']}", 'conv=notrunc', 'status=none']);
        $this->run(['mformat', '-i', "$system@@".self::BOOT, '-T', (string) intdiv(24 << 20, 512), '-v', 'GATE-EFI', '::']);
        $this->guest->makeBootable($system, self::BOOT, $uuid, true);
        $file->dumpFile("{$this->folder}/data/tariffs.ibd", str_repeat("tariffs of the gate\n", 4000));
        $this->run(['mke2fs', '-q', '-t', 'ext4', '-L', 'gate-data', '-d', "{$this->folder}/data", $this->machine->disk(self::DATA)]);
        $file->remove([$root, "{$this->folder}/data", $swap]);
    }

    /**
     * Writes by what its group is known, which nobody here needs rights for.
     *
     * @return array<string, int> volume => from which byte of the disk
     */
    private function group(string $system): array
    {
        $id = fn (string $of): string => VolumeGroup::dashed(md5($this->folder.$of));
        $volumes = [];
        foreach (self::VOLUMES as $name => $bytes) {
            $volumes[] = new RecordedVolume($name, $id($name), $bytes, new Content(ContentKind::Image, used: $bytes));
        }
        $disk = LayoutReading::ofDisk('system', FileDisk::open($system))
            ->with('system.2', new Content(ContentKind::Group, LayoutReading::LVM, $id('part'), 'gate', array_sum(self::VOLUMES)));
        $record = new LayoutRecord([$disk], '', [new RecordedGroup('gate', $id('group'), 1 << 20, ['system.2'], $volumes)]);
        $own = new TargetDisk('vda', $disk->bytes, 512, self::SYSTEM, '', false, [], '');
        [$group] = LayoutProposal::of($record, new TargetMachine('uefi', '', '', 0, [$own], [], []))->groups;
        $file = fopen($system, 'r+b');
        $head = GroupHead::bytes($group->parts[0], $group->text());
        $file !== false && fseek($file, self::GROUP) === 0 && fwrite($file, $head) === strlen($head) && fclose($file)
            || throw new RuntimeException("The volume group cannot be written to $system.");
        $at = [];
        foreach ($group->volumes as $volume) {
            $at[$volume->was->name] = $group->places($volume)[0]->from;
        }

        return $at;
    }

    /** All of it, a subvolume by itself, and a folder of it a second time. */
    private const MOUNTS_OF_CREW = "mount -t btrfs /dev/vdc /srv/crew\nmount -t btrfs -o subvol=sub /dev/vdc /srv/sub\n".
        "mount -o bind /srv/crew/quay /srv/again\n";

    private static function mounts(): string
    {
        return <<<'SH'
            mount "$(findfs LABEL=GATE-EFI)" /boot/efi -t vfat
            mount "$(findfs LABEL=gate-data)" /srv/database

            SH;
    }

    /** @param  list<string>  $command */
    private function run(array $command, string $input = ''): void
    {
        $path = ['PATH' => '/usr/sbin:/usr/bin:/sbin:/bin', 'MTOOLSRC' => '/dev/null', 'MTOOLS_SKIP_CHECK' => '1'];
        (new Process($command, '/', $path, $input, 300))->mustRun();
    }
}
