<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\FileRequest;
use App\Models\BackupSet;
use App\Models\User;
use App\Sets\ContentRead;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Places\OneFile;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\PortableNames;
use Symfony\Component\HttpFoundation\HeaderUtils;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** One file as it was at a point, to be looked at elsewhere: the first byte leaves when the whole content was found right. */
final class TakeFileController
{
    public function __invoke(FileRequest $request, BackupSet $backupSet): StreamedResponse
    {
        $path = EntryPath::of($request->string('path')->value());
        $packed = (new CatalogReader)->at($backupSet, $path);
        $version = $packed === null ? null : Version::unpack($packed);
        abort_if($version === null || $version->kind !== EntryKind::File, 404);
        $onShelf = [];
        $content = OneFile::read($backupSet, $version, $onShelf);
        abort_if(
            $content === null,
            409,
            $onShelf === []
                ? 'The content of this file is in no archive that can be read.'
                : 'The content of this file is on the shelf: '.implode(' and ', $onShelf).'. Ask for it under Stores.',
        );
        $user = $request->user();
        assert($user instanceof User);
        ContentRead::file('took', $backupSet, $path, $user);
        $name = PortableNames::name(EntryPath::split($path)[1]);

        return new StreamedResponse(
            function () use ($content): void {
                fpassthru($content);
            },
            200,
            [
                // Never shown as a page of ours, whatever is in it.
                'Content-Type' => 'application/octet-stream',
                'Content-Length' => (string) $version->size,
                'Content-Disposition' => HeaderUtils::makeDisposition(
                    'attachment',
                    strtr($name, '%', '_'),
                    trim((string) preg_replace('/[^\x20-\x7e]|[\/\\\\%"]/', '_', $name)) ?: 'file',
                ),
                'X-BLAKE2b-256' => bin2hex((string) $version->digest),
            ],
        );
    }
}
