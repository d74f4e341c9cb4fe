<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use App\Kinds\Machines\Machines;
use App\Kinds\RebuildOrder;
use App\Kinds\Rebuilt;
use App\Kinds\RebuiltSet;
use App\Kinds\RefusedFile;
use App\Models\BackupSet;
use App\Models\Copy;
use App\Models\Workload;
use App\Sets\CannotRegister;
use InvalidArgumentException;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Hypervisor\Told;
use Kaiseki\Core\Hypervisor\UnfitSettings;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Protect\Consistency;
use Kaiseki\Core\Protect\PartRecord;

/** Sets of machines of ours, taken in again in the order in which they were made, by the records beside them and the images themselves. */
final class ImagesAgain
{
    private readonly Rebuilt $rebuilt;

    public function __construct(private readonly RebuildOrder $order)
    {
        $this->rebuilt = new Rebuilt;
    }

    public function take(): Rebuilt
    {
        $records = [];
        foreach (glob("{$this->order->folder()}/*.set.json") ?: [] as $file) {
            $record = json_decode((string) file_get_contents($file), true);
            if (is_array($record) && ($record['kind'] ?? null) === Machines::NAME) {
                try {
                    $records[] = $this->read($record, basename($file, '.set.json'));
                } catch (InvalidArgumentException|UnfitSettings $wrong) {
                    $this->rebuilt->problems[] = new RefusedFile(basename($file), ucfirst(rtrim($wrong->getMessage(), '.')).'.');
                }
            }
        }
        usort($records, fn (RecordedImages $a, RecordedImages $b): int => $a->rank() <=> $b->rank());
        if ($records !== []) {
            $of = ['name' => $this->order->workload];
            $workload = Workload::query()->firstOrCreate($of, ['kind' => Machines::NAME, 'site' => $this->order->store->site]);
            foreach ($records as $record) {
                ($this->order->progress)($record->name);
                $this->set($workload, $record);
            }
        }

        return $this->rebuilt;
    }

    /** @param  array<mixed>  $record */
    private function read(array $record, string $name): RecordedImages
    {
        if (Told::text($record, 'name') !== $name) {
            throw new InvalidArgumentException('It is the record of another set');
        }
        $level = Level::of(Told::text($record, 'level'));
        $at = Instant::parse(Told::text($record, 'captured_at'));
        $history = Told::text($record, 'history') ?: '1';
        $parts = PartRecord::all($record);
        $images = array_map(
            fn (PartRecord $part): FoundImage => new FoundImage(
                "{$this->order->workload}/{$part->file}", $name, $part->name, 'qcow2', $level, $at, $history,
            ),
            $parts,
        );

        return new RecordedImages(
            $name,
            $images === [] ? throw new InvalidArgumentException('It names no image') : $images,
            $parts,
            Told::text($record, 'base'),
            Consistency::tryFrom(Told::text($record, 'consistency')) ?? Consistency::Unknown,
            MachineSettings::fromArray(Told::part($record['machine'] ?? null)),
            Told::texts($record, 'excluded'),
        );
    }

    private function set(Workload $workload, RecordedImages $record): void
    {
        $known = $workload->sets()->where('name', $record->name)->first();
        try {
            $this->compare($record);
            $known === null ? $this->add($workload, $record) : $this->addCopies($known, $record);
            $from = $known === null ? RebuiltSet::BY_ARCHIVE : RebuiltSet::KNOWN;
            $this->rebuilt->sets[] = new RebuiltSet($workload->name, $record->name, $from);
        } catch (UnreadableArchive|UnreadableImage|CannotRegister $cannot) {
            $this->rebuilt->problems[] = new RefusedFile($record->name, ucfirst(rtrim($cannot->getMessage(), '.')).'.');
        }
    }

    /** @throws CannotRegister|UnreadableArchive if an image is not what its record says: its blocks would be taken for those that were */
    private function compare(RecordedImages $record): void
    {
        foreach ($record->parts as $part) {
            $file = "{$this->order->folder()}/{$part->file}";
            is_file($file) || throw CannotRegister::because("the image {$part->file} is not there");
            $digest = PieceDigests::of(StreamBytes::ofFile($file));
            ($digest->bytes === $part->bytes && bin2hex($digest->digest) === $part->digest) ||
                throw CannotRegister::because("the image {$part->file} is not what its record says, so that it was not taken");
        }
    }

    private function add(Workload $workload, RecordedImages $record): void
    {
        $base = $record->base === '' ? null : $workload->sets()->where('name', $record->base)->first();
        if ($base === null && $record->base !== '') {
            throw CannotRegister::because("it rests on {$record->base}, which is not here");
        }
        (new ImageRegistration($workload, $this->order->store, null))
            ->addOwn($record->images, $base, $record->settings, $record->consistency, $record->excluded);
    }

    private function addCopies(BackupSet $set, RecordedImages $record): void
    {
        foreach ($record->images as $part => $image) {
            Copy::query()->firstOrCreate(
                ['set_id' => $set->id, 'store_id' => $this->order->store->id, 'part' => $part],
                ['path' => $image->file, 'bytes' => $record->parts[$part]->bytes, 'state' => 'ok', 'has_beside' => true],
            );
        }
    }
}
