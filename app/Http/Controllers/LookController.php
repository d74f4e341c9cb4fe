<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\FileRequest;
use App\Models\BackupSet;
use App\Models\User;
use App\Sets\ContentRead;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Places\LibraryRecords;
use App\Trees\Places\OneFile;
use App\View\DrawnPicture;
use App\View\SeenContent;
use Illuminate\Contracts\View\View;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Symfony\Component\HttpFoundation\Response;

/** One file as it was at a point, shown without anything of it being believed. */
final class LookController
{
    private const LARGEST = 64 << 20;

    private const PICTURE_BYTES = 32 << 20;

    public function show(FileRequest $request, BackupSet $backupSet): View
    {
        [$path, $version] = $this->version($request, $backupSet);
        $onShelf = [];
        $records = new LibraryRecords($backupSet);
        $stream = $version->size > self::LARGEST ? null : OneFile::read($backupSet, $version, $onShelf);

        return view('look', [
            'set' => $backupSet,
            'path' => $path,
            'version' => $version,
            'onShelf' => $onShelf,
            'seen' => $stream === null
                ? null
                : SeenContent::of($stream, EntryPath::split($path)[1], $version->size, (string) $version->digest),
            'records' => $records,
            'record' => $records->of($path),
            'isTooLarge' => $version->size > self::LARGEST,
        ]);
    }

    public function picture(FileRequest $request, BackupSet $backupSet): Response
    {
        [, $version] = $this->version($request, $backupSet);
        abort_if($version->size > self::PICTURE_BYTES, 413, 'This picture is too large to be shown here.');
        $stream = OneFile::read($backupSet, $version);
        abort_if($stream === null, 409, 'The content of this file cannot be read.');
        $png = DrawnPicture::png((string) stream_get_contents($stream));
        abort_if($png === null, 415, 'This cannot be shown as a picture.');

        return response($png, 200, [
            'Content-Type' => 'image/png',
            'Content-Disposition' => 'inline; filename="picture.png"',
        ]);
    }

    /** @return array{string, Version} */
    private function version(FileRequest $request, BackupSet $set): array
    {
        $path = EntryPath::of($request->string('path')->value());
        $packed = (new CatalogReader)->at($set, $path);
        $version = $packed === null ? null : Version::unpack($packed);
        abort_if($version === null || $version->kind !== EntryKind::File, 404);
        $user = $request->user();
        assert($user instanceof User);
        ContentRead::file('looked at', $set, $path, $user);

        return [$path, $version];
    }
}
