<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Machines;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\CannotRegister;
use Closure;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\Moment;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\DiskDifference;
use Kaiseki\Core\Machine\Qcow2Writer;
use Kaiseki\Core\Proof\DigestLine;
use Kaiseki\Core\Protect\PartRecord;
use Kaiseki\Core\Protect\SetRecord;
use Kaiseki\Core\UnableToWrite;

/** The files of one set of a machine as it is made: an image of each disk, and beside them NAME.set.json and NAME.b2sum. */
final class MachineSetFiles
{
    private const AT_ONCE = 16 * Blocks::BYTES;

    /** @var array<string, string> disk => its image, below the folder */
    private array $images = [];

    private bool $isKept = false;

    public function __construct(
        private readonly Workload $workload,
        private readonly Store $store,
        private readonly string $set,
        private readonly Level $level,
        private readonly Instant $at,
        private readonly string $history,
    ) {
        is_dir($this->folder()) || mkdir($this->folder(), 0700, true);
    }

    private function folder(): string
    {
        return "{$this->store->root}/{$this->workload->name}";
    }

    private static function imageName(Workload $workload, string $set, string $disk): string
    {
        return $workload->name.".$disk".substr($set, strlen($workload->name)).'.qcow2';
    }

    /**
     * @param  DiskOfPoint|null  $over  the disk as it was at the set below; null to take all that is no zeros
     * @param  DiskOfPoint|null  $known  as it was at the set since which is known what changed
     * @param  (Closure(int): void)|null  $progress  told the blocks so far
     *
     * @throws UnableToWrite|CannotRegister
     */
    public function write(string $disk, Moment $moment, ?DiskOfPoint $over, ?DiskOfPoint $known, ?Closure $progress): void
    {
        $image = self::imageName($this->workload, $this->set, $disk);
        ! file_exists($this->folder()."/$image") || throw CannotRegister::because("There is a file $image already.");
        $this->images[$disk] = $image;
        $from = NbdDisk::open($moment->doors[$disk], $known === null ? null : $moment->since[$disk]);
        $backing = $over === null ? null : self::imageName($this->workload, $over->chain[0]->name, $disk);
        $writer = Qcow2Writer::create($this->folder()."/$image", $from->size(), $backing);
        $number = 0;
        foreach ($over === null ? self::held($from) : self::changed($from, $over, $known) as $at => $bytes) {
            $isZero = Blocks::isZero($bytes);
            if (! $isZero) {
                $writer->block($at, $bytes);
            } elseif ($over !== null) {
                $writer->zeros($at, 1);
            }
            $progress === null || ++$number % 256 !== 0 || $progress($number);
        }
        $writer->finish();
        $from->close();
    }

    /** @return iterable<int, string> number => bytes, of the blocks that hold something */
    private static function held(NbdDisk $disk): iterable
    {
        $next = 0;
        foreach ($disk->held() as [$from, $to]) {
            $at = max($next, intdiv($from, Blocks::BYTES)) * Blocks::BYTES;
            for (
                $end = min($disk->size(), intdiv($to + Blocks::BYTES - 1, Blocks::BYTES) * Blocks::BYTES);
                $at < $end;
                $at += self::AT_ONCE
            ) {
                $piece = $disk->read($at, min(self::AT_ONCE, $end - $at));
                $disk->ahead($at + self::AT_ONCE, min(self::AT_ONCE, $end - $at - self::AT_ONCE));
                foreach (str_split($piece, Blocks::BYTES) as $i => $bytes) {
                    yield intdiv($at, Blocks::BYTES) + $i => $bytes;
                }
            }
            $next = intdiv($to + Blocks::BYTES - 1, Blocks::BYTES);
        }
    }

    /**
     * @return iterable<int, string>
     *
     * @throws CannotRegister if what lies below is not known well enough
     */
    private static function changed(NbdDisk $disk, DiskOfPoint $over, ?DiskOfPoint $known): iterable
    {
        $changed = $known === null ? [] : $disk->changed();
        $difference = new DiskDifference($over->plan(), $disk, $disk->held(), $known?->plan(), $changed);
        yield from $difference->blocks();
        $difference->unknown === 0 || throw CannotRegister::because('Of the set below not every block is known: make a full.');
    }

    /** @param  list<string>  $excluded */
    public function record(?string $base, Level $asked, MachineSettings $settings, string $consistency, array $excluded): void
    {
        $parts = [];
        $lines = '';
        foreach ($this->images as $disk => $image) {
            $digest = PieceDigests::of(StreamBytes::ofFile($this->folder()."/$image"));
            $parts[] = (new PartRecord($disk, $image, $digest->bytes, bin2hex($digest->digest)))->toArray();
            $lines .= DigestLine::of($digest->digest, $image);
        }
        $record = [
            'format' => SetRecord::FORMAT,
            'kind' => Machines::NAME,
            'name' => $this->set,
            'level' => $this->level->name,
            'asked_level' => $asked->name,
            'base' => $base,
            'history' => $this->history,
            'captured_at' => $this->at->iso(),
            'consistency' => $consistency,
            'machine' => $settings->toArray(),
            'excluded' => $excluded,
            'parts' => $parts,
        ];
        $flags = JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR;
        $this->put('.set.json', json_encode($record, $flags)."\n");
        $this->put('.b2sum', $lines);
    }

    private function put(string $ending, string $content): void
    {
        $file = $this->folder()."/{$this->set}$ending";
        @file_put_contents($file, $content) === strlen($content) || throw UnableToWrite::full($file);
    }

    /** @return non-empty-list<FoundImage> */
    public function found(): array
    {
        $found = [];
        foreach ($this->images as $disk => $image) {
            $file = "{$this->workload->name}/$image";
            $found[] = new FoundImage($file, $this->set, $disk, 'qcow2', $this->level, $this->at, $this->history);
        }

        return $found === [] ? throw CannotRegister::because('No disk was taken.') : $found;
    }

    public function keep(): void
    {
        $this->isKept = true;
    }

    /** Of a set that came to nothing no file stays. */
    public function clear(): void
    {
        foreach ($this->isKept ? [] : [...array_values($this->images), "{$this->set}.set.json", "{$this->set}.b2sum"] as $file) {
            @unlink($this->folder()."/$file");
        }
    }
}
