<?php

declare(strict_types=1);

use App\Models\BackupSet;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\SetWriter;
use Kaiseki\Core\Protect\SourceState;
use Kaiseki\Core\UnableToWrite;
use Kaiseki\StandIns\FileHost;

// A set is named by its second: of a clock that stands still, or was set back, nothing may be written over.

/** @return array<string, string> name => digest of all that lies in a folder */
function digestsIn(string $folder): array
{
    $digests = [];
    foreach (glob("$folder/*") ?: [] as $file) {
        $digests[basename($file)] = (string) hash_file('sha256', $file);
    }

    return $digests;
}

it('leaves a set as it is when another would get its name', function (string $level): void {
    $host = new FileHost($this->scratch()->path.'/host');
    $host->setClock(Instant::parse('2026-11-12T02:10:00Z'));
    $this->scratch()->file('host/files/roster', 'of the first');
    $this->told(0, 'protect', 'crew', "--source={$host->root()}", '--level=full');
    $host->setClock(Instant::parse('2026-11-13T02:10:00Z'));
    $this->scratch()->file('host/files/roster', 'of the second');
    $this->told(0, 'protect', 'crew', "--level=$level");
    $set = BackupSet::query()->orderByDesc('instant')->firstOrFail();
    $folder = dirname((string) $set->copies()->firstOrFail()->store->root.'/'.$set->copies()->firstOrFail()->path);
    $before = digestsIn($folder);
    expect($before)->not->toBe([]);
    $this->scratch()->file('host/files/roster', 'of a third, in the same second');
    $again = $this->kaiseki('protect', 'crew', "--level=$level", '--json');
    expect($again->code)->not->toBe(0)
        ->and($again->text)->toContain("{$set->name} is registered already")
        ->and(digestsIn($folder))->toBe($before);
    $to = $this->scratch()->path.'/back';
    $this->told(0, 'restore', 'crew', '--at=2026-11-14T00:00:00Z', '--path=/', "--to=$to");
    expect(file_get_contents("$to/roster"))->toBe('of the second');
    // The clock goes again.
    $host->setClock(Instant::parse('2026-11-13T02:10:01Z'));
    $this->told(0, 'protect', 'crew', "--level=$level");
    expect(BackupSet::query()->count())->toBe(3);
})->with(['full', 'incr', 'diff']);

it('writes over nothing that lies where a set would, also what nobody registered', function (): void {
    $source = $this->scratch()->folder('source');
    $this->scratch()->file('source/a', 'a');
    foreach (['tar.gz', 'manifest.jsonl', 'b2sum', 'set.json'] as $ending) {
        $folder = $this->scratch()->folder("sets-$ending");
        $this->scratch()->file("sets-$ending/x.$ending", 'of somebody else');
        $writer = new SetWriter(FolderBelow::open($source), $folder);
        expect(fn () => $writer->write('x', null, SourceState::none(), '', fn () => throw new LogicException('nothing is written')))
            ->toThrow(UnableToWrite::class, 'is there already');
        expect(scandir($folder))->toBe(['.', '..', "x.$ending"])
            ->and(file_get_contents("$folder/x.$ending"))->toBe('of somebody else');
    }
});
