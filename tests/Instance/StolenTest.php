<?php

declare(strict_types=1);

use App\Demo\People;
use Symfony\Component\Finder\Finder;
use Symfony\Component\Process\Process;
use Tests\Support\Instance;

// What docs/security.md says can be read from what is stolen, and what cannot.

it('gives no password, key or content away in a dump of the database', function (): void {
    $dump = (new Process(['mariadb-dump', '--socket='.Instance::home().'/sql/db.sock', '--hex-blob', 'kaiseki'], null, null, null, 300))
        ->mustRun()
        ->getOutput();
    $keys = array_map(file_get_contents(...), array_filter(glob(Instance::home().'/keys/*') ?: [], is_file(...)));
    foreach ([People::PASSWORD, ...$keys] as $secret) {
        expect(str_contains($dump, trim((string) $secret)))
            ->toBeFalse()
            ->and(str_contains($dump, strtoupper(bin2hex((string) $secret))))
            ->toBeFalse();
    }
    // The password of the demo's server is there, encrypted with a key that is not.
    $kept = (string) Instance::database()->query("SELECT password FROM database_servers WHERE name = 'fares-db'")->fetchColumn();
    expect((string) base64_decode($kept, true))->toContain('"mac"')->toContain('"iv"');
    // Names, digests and the words that are searched are in it: who has it knows what there is.
    expect($dump)->toContain('boathouse-files')->toContain('oona@sorrelsound.example');
});

it('has archives in a store that anybody can read who has them, and no key or password', function (): void {
    $archives = glob(Instance::home().'/stores/boathouse/boathouse-files/*.full.*.tar.gz') ?: [];
    (new Process(['tar', '-tzf', end($archives)]))->mustRun();
    // Keys are bytes, NULs and line breaks among them: no pattern for grep.
    $secrets = array_map(file_get_contents(...), glob(Instance::home().'/keys/*.key') ?: []);
    expect(count($secrets))->toBeGreaterThan(0);
    foreach ((new Finder)->files()->in(Instance::home().'/stores') as $file) {
        $stream = fopen($file->getPathname(), 'rb');
        for ($seen = ''; ! feof($stream); $seen = substr($bytes, -4096)) {
            $bytes = $seen.fread($stream, 1 << 20);
            foreach ($secrets as $secret) {
                str_contains($bytes, trim($secret)) && throw new LogicException("A key lies in {$file->getPathname()}.");
            }
        }
        fclose($stream);
    }
});
