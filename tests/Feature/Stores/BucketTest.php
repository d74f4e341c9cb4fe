<?php

declare(strict_types=1);

use App\Models\Store;
use Illuminate\Support\Facades\Cache;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Symfony\Component\Process\Process;
use Tests\Support\TreeListing;

/* An S3-compatible store over real HTTP: a small server on loopback that speaks as much of it as is used. */

beforeEach(function (): void {
    $this->bucket = $this->scratch()->folder('bucket');
    $this->log = $this->scratch()->file('bucket.log', '');
    $socket = stream_socket_server('tcp://127.0.0.1:0');
    $this->port = (int) substr((string) strrchr((string) stream_socket_get_name($socket, false), ':'), 1);
    fclose($socket);
    $this->server = new Process([PHP_BINARY, '-S', "127.0.0.1:{$this->port}", dirname(__DIR__, 2).'/Support/bucket.php'], null, [
        'BUCKET_FOLDER' => $this->bucket,
        'BUCKET_LOG' => $this->log,
    ]);
    $this->server->start();
    for ($tries = 0; $tries < 200 && ! @fsockopen('127.0.0.1', $this->port); $tries++) {
        usleep(50_000);
    }
    putenv('KAISEKI_STORE_KEY=key-of-the-test');
    putenv('KAISEKI_STORE_SECRET=secret-of-the-test');
    $this->kaiseki('store-add', 'near', $this->scratch()->folder('near'));
    $added = $this->kaiseki(
        'store-add',
        'offsite',
        '--kind=object',
        '--bucket=sorrel',
        "--endpoint=http://127.0.0.1:{$this->port}",
        '--prefix=kaiseki',
        '--site=pier-nine',
        '--json',
    );
    expect($added->code)->toBe(0, $added->text);
    putenv('KAISEKI_STORE_KEY');
    putenv('KAISEKI_STORE_SECRET');
    $host = new FileHost($this->scratch()->folder('host'));
    $host->setClock(Instant::parse('2026-10-01T02:00:00Z'));
    foreach (range(0, 40) as $i) {
        $this->scratch()->file(sprintf('host/files/d/file%02d', $i), random_bytes(40_000));
    }
    $this->set = $this->kaiseki('protect', 'own', "--source={$host->root()}", '--level=full', '--store=near', '--json')->json()['set'];
    $this->source = $host->root();
    $this->out = $this->scratch()->path.'/out';
});

afterEach(fn () => $this->server->stop(0));

it('copies to a bucket, reads from it at an offset, and keeps its keys out of the database', function (): void {
    $copied = $this->kaiseki('copy', 'own', $this->set, '--to=offsite', '--json');
    expect($copied->code)->toBe(0, $copied->text)->and(is_file("{$this->bucket}/kaiseki/own/{$this->set}.tar.gz"))->toBeTrue();
    unlink($this->scratch()->path."/near/own/{$this->set}.tar.gz");
    file_put_contents($this->log, '');
    $one = $this->kaiseki('restore', 'own', '--at=2026-10-02T00:00:00Z', '--path=/d/file33', "--to={$this->out}", '--json');
    expect($one->code)
        ->toBe(0, $one->text)
        ->and(hash_file('sha256', "{$this->out}/d/file33"))
        ->toBe(hash_file('sha256', "{$this->source}/d/file33"));
    $read = array_values(
        array_filter(
            file($this->log, FILE_IGNORE_NEW_LINES) ?: [],
            fn (string $line): bool => str_contains($line, '.tar.gz') && str_contains($line, 'bytes='),
        ),
    );
    expect($read)->not->toBe([]);
    $whole = $this->kaiseki('restore', 'own', '--at=2026-10-02T00:00:00Z', '--path=/', "--to={$this->out}-whole", '--json');
    expect($whole->code)->toBe(0, $whole->text)->and(TreeListing::of("{$this->out}-whole"))->toBe(TreeListing::of($this->source));
    expect((string) json_encode(Store::query()->get()))->not->toContain('secret-of-the-test');
    expect(fileperms(getenv('KAISEKI_HOME').'/keys/store-offsite.json') & 0777)->toBe(0600);
});

it('says that the bucket does not answer when its service is down, and plans around it', function (): void {
    $this->kaiseki('copy', 'own', $this->set, '--to=offsite');
    $this->server->stop(0);
    Cache::flush();
    expect($this->kaiseki('points', 'own', '--json')->json()['points'][0]['usable'])->toBe('whole');
    unlink($this->scratch()->path."/near/own/{$this->set}.tar.gz");
    $answer = $this->kaiseki('restore', 'own', '--at=2026-10-02T00:00:00Z', '--path=/', "--to={$this->out}", '--json');
    expect($answer->code)->toBe(3, $answer->text);
});
