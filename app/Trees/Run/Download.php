<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\WorkerProcess;
use App\Sets\Points;
use App\Trees\Places\ContentPlaces;
use App\Trees\Places\PlanOfReading;
use App\Words;
use Fiber;
use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\ArchiveReading;
use Kaiseki\Core\Files\ContentPlace;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Files\PortableNames;
use Kaiseki\Core\Files\ReadAmount;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Proof\DigestLine;
use Kaiseki\Core\UnableToWrite;
use Symfony\Component\Process\Process;

/**
 * Sends what was ordered to a browser, as a tar.gz or a zip that is made while it is sent: nothing is written here. A
 * content of up to 4 MiB is right before its first byte leaves; a larger one that turns out wrong breaks the transfer off,
 * so that nobody takes the archive for whole. Its last member is a manifest that b2sum reads.
 */
final class Download
{
    private const IN_MEMORY = 4 << 20;

    private const PIECE = 1 << 18;

    /** Things that one takes: their names and digests are held until its end. */
    public const MOST = 200_000;

    public const MANIFEST = 'kaiseki-manifest.b2sum';

    private TarWriter $tar;

    /** @var resource what the tar writer has written and was not sent yet */
    private $written;

    private int $files = 0;

    private int $bytes = 0;

    private string $manifest = '';

    /** @var list<LeftOut> */
    private array $leftOut = [];

    /** @var array<string, ReadAmount> by the key of the archive */
    private array $read = [];

    public const NAMES = 'kaiseki-names.json';

    private readonly PortableNames $names;

    private readonly RestorePlan $plan;

    private readonly Points $points;

    private function __construct(private readonly Run $run)
    {
        $this->plan = RestorePlan::fromArray($run->plan);
        $this->points = new Points($run->workload);
        $this->names = new PortableNames;
        $this->written = fopen('php://memory', 'w+b') ?: throw UnableToWrite::open('php://memory');
        $this->tar = new TarWriter(new GzipMemberWriter($this->written, PHP_INT_MAX, $this->plan->download === 'zip' ? 1 : 6));
    }

    /**
     * The archive, in pieces. Can be taken once: the run is over then.
     *
     * @return iterable<string>
     *
     * @throws UnableToRestore|UnreadableArchive if it cannot go on: what was sent is not whole
     */
    public static function of(Run $run): iterable
    {
        $self = new self($run);
        $run->update(['state' => 'running', 'worker' => WorkerProcess::own(), 'started_at' => now(), 'heartbeat_at' => now()]);
        $isSent = false;
        try {
            yield from $self->plan->download === 'zip' ? self::zipped($self->pieces()) : $self->pieces();
            $isSent = true;
            $self->finish();
        } finally {
            if (! $isSent) {
                $run->update([
                    'state' => 'failed',
                    'failure' => 'The transfer was broken off, or an archive turned out damaged: what was sent is not whole.',
                    'ended_at' => now(),
                ]);
                $run->request?->update(['state' => 'open']);
                TrailEntry::add("The download of run {$run->id} did not come to its end.", $run->request, $run->user, $run);
            }
            $self->points->stores->release();
        }
    }

    /**
     * By bsdtar (libarchive), from a stream to a stream.
     *
     * @param  iterable<string>  $tar
     * @return iterable<string>
     */
    private static function zipped(iterable $tar): iterable
    {
        $process = new Process(['bsdtar', '--create', '--file=-', '--format=zip', '@-'], null, ['LC_ALL' => 'C.UTF-8'], $tar, null);
        $process->start();
        yield from $process->getIterator(Process::ITER_SKIP_ERR); // takes of the tar what fits into the pipe, and keeps nothing
        $process->wait();
        if (! $process->isSuccessful()) {
            throw UnableToRestore::targetUnfit('the download', 'bsdtar: '.trim($process->getErrorOutput()));
        }
    }

    /** @return iterable<string> */
    private function pieces(): iterable
    {
        $fiber = new Fiber($this->write(...));
        for ($piece = $fiber->start(); ! $fiber->isTerminated(); $piece = $fiber->resume()) {
            yield (string) $piece;
        }
        yield $this->taken();
    }

    private function write(): void
    {
        $planned = PlannedOrder::of($this->plan, $this->run->set, $this->points, (string) $this->run->id);
        $reading = PlanOfReading::for($this->points, $this->run->set, $this->plan->paths, null, $this->plan->copies, $planned->items);
        $places = new ContentPlaces($this->points, $this->run->set, $this->points->route(null), $reading->list, $this->plan->copies);
        $work = [];
        $this->names->reserve(array_map(strval(...), array_keys($planned->order->items)));
        foreach ($planned->order->items as $path => $packed) {
            $path = (string) $path;
            $version = Version::unpack($packed);
            $left = RestoreOrder::leftOut($path, $version);
            if ($left !== null) {
                $this->leftOut[] = $left;
            } elseif ($path !== '' && $version->kind === EntryKind::File && $version->size > 0) {
                $work[] = [$places->placeOf((string) $version->digest), $path, $version];
            } elseif ($path !== '') {
                $this->begin($path, $version);
                $this->passOn();
            }
        }
        usort(
            $work,
            fn (array $a, array $b): int => [$a[0]->order ?? 0, $a[0]->place->offset ?? 0, $a[0]->place->within ?? 0] <=> [
                $b[0]->order ?? 0,
                $b[0]->place->offset ?? 0,
                $b[0]->place->within ?? 0,
            ],
        );
        $archives = new ArchiveReading;
        $groups = [];
        foreach ($work as [$place, $path, $version]) {
            if ($this->plan->download === 'tar' && $version->linkGroup !== 0 && isset($groups[$version->linkGroup])) {
                $this->head(EntryKind::HardLink, $path, $version, 0, $groups[$version->linkGroup]);
                $this->sent($path, $version);
            } elseif ($this->content($archives, $places, $place, $path, $version)) {
                $groups[$version->linkGroup] ??= $this->names->of($path);
            }
        }
        $changed = array_map(rawurlencode(...), $this->names->changed());
        $list = $changed === [] ? '' : (string) json_encode($changed, JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
        foreach ([self::NAMES => $list, self::MANIFEST => $this->manifest] as $name => $text) {
            if (! isset($planned->order->items[$name]) && ($text !== '' || $name === self::MANIFEST)) {
                $this->tar->begin(EntryKind::File, $name, strlen($text), 0600, 0, 0, '', '', now()->getTimestamp() * 1_000_000_000);
                $this->tar->content($text);
            }
        }
        $this->tar->end();
    }

    private function content(ArchiveReading $archives, ContentPlaces $places, ?ContentPlace $place, string $path, Version $version): bool
    {
        for ($failed = []; $place !== null; $place = $places->placeOf((string) $version->digest, $failed)) {
            $sink = new TarContent(
                $version->size <= self::IN_MEMORY
                    ? null
                    : function (string $bytes): void {
                        $this->tar->content($bytes);
                        $this->passOn();
                    },
            );
            $digest = new ContentDigest;
            try {
                if ($version->size > self::IN_MEMORY) {
                    $this->begin($path, $version);
                }
                $archives->read($place, $digest, $sink);
                $because = $digest->finish() === $version->digest ? null : 'a content in it is not what was cataloged: its digest differs';
            } catch (UnreadableArchive $damage) {
                $because = $damage->getMessage();
            }
            if ($because === null) {
                if ($version->size <= self::IN_MEMORY) {
                    $this->begin($path, $version);
                    $this->tar->content($sink->held);
                }
                $this->passOn();
                ($this->read[$place->archiveKey] ??= new ReadAmount)->member($version->size);
                $this->sent($path, $version);

                return true;
            }
            $places->archiveFailed($place->archiveKey, $because);
            if ($sink->passedOn) {
                throw UnableToRestore::at(
                    $path,
                    "the archive $because while it was sent. Ask for the download again: another copy is read then",
                );
            }
            $failed[] = $place->archiveKey;
        }
        $this->leftOut[] = new LeftOut($path, 'its content is in no archive that can be read', true);

        return false;
    }

    private function begin(string $path, Version $version): void
    {
        $this->head($version->kind, $path, $version, $version->kind === EntryKind::File ? $version->size : 0, $version->linkTarget);
        if ($version->kind === EntryKind::File && $version->size === 0) {
            $this->sent($path, $version);
        }
    }

    private function head(EntryKind $kind, string $path, Version $version, int $size, string $linkTarget): void
    {
        $this->tar->begin(
            $kind,
            $this->names->of($path),
            $size,
            $version->mode & ~06000,
            $version->uid,
            $version->gid,
            $version->uname,
            $version->gname,
            $version->mtime,
            $linkTarget,
            null,
            $version->access === '' ? [] : (AccessList::of($version->access)?->member() ?? []),
        );
    }

    private function sent(string $path, Version $version): void
    {
        $this->files++;
        $this->bytes += $version->size;
        if ($version->digest !== null) {
            $this->manifest .= DigestLine::of($version->digest, $this->names->of($path));
        }
    }

    private function passOn(): void
    {
        if (ftell($this->written) >= self::PIECE) {
            Fiber::suspend($this->taken());
        }
    }

    private function taken(): string
    {
        rewind($this->written);
        $bytes = (string) stream_get_contents($this->written);
        rewind($this->written);
        ftruncate($this->written, 0);

        return $bytes;
    }

    private function finish(): void
    {
        $run = $this->run;
        $lost = array_filter($this->leftOut, fn (LeftOut $left): bool => $left->isLoss);
        $outcome = RunOutcome::ofDownload($run, $this->files, $this->bytes, $this->leftOut, $this->read);
        $run->update([
            'state' => 'done',
            'outcome' => $outcome,
            'ended_at' => now(),
            'files_done' => $this->files,
            'bytes_done' => $this->bytes,
        ]);
        $proof = new ProofWriter($run, $this->plan);
        foreach (explode("\n", rtrim($this->manifest, "\n")) as $line) {
            $proof->line("$line\n");
        }
        $proof->write($outcome);
        $run->request?->update(['state' => 'answer']);
        TrailEntry::add(
            sprintf(
                'Run %d: %s, %s were downloaded%s.',
                $run->id,
                Words::count($this->files, 'file'),
                Words::size($this->bytes),
                $lost === [] ? '' : ', '.count($lost).' could not be given back',
            ),
            $run->request,
            $run->user,
            $run,
        );
    }
}
