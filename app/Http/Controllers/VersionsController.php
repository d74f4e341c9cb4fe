<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\FileRequest;
use App\Models\User;
use App\Models\Workload;
use App\Sets\ContentRead;
use App\View\CompareView;
use App\View\VersionsView;
use Illuminate\Contracts\View\View;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;

/** The life of one path, and two of its versions beside each other. */
final class VersionsController
{
    public function index(FileRequest $request, Workload $workload): View
    {
        $user = $request->user();
        assert($user instanceof User);
        $view = new VersionsView($workload, EntryPath::of($request->string('path')->value()), $user, $request->integer('request'));
        abort_if($view->versions === [], 404, 'Nothing of that path was ever in a set.');

        return view('versions', ['view' => $view]);
    }

    public function compare(FileRequest $request, Workload $workload): View
    {
        $user = $request->user();
        assert($user instanceof User);
        $view = new CompareView(
            $workload,
            EntryPath::of($request->string('path')->value()),
            $request->string('old')->value(),
            $request->string('new')->value(),
            $user,
        );
        abort_if($view->life->versions === [], 404, 'Nothing of that path was ever in a set.');
        $path = Shown::name($request->string('path')->value());
        ContentRead::told("Compared two versions of $path of {$workload->name}.", $workload, $user);

        return view('compare', ['view' => $view]);
    }
}
