@php($filter = $view->filter)
<form method="get" action="/estate" class="line-form filter" role="search" aria-label="Workloads">
    <label class="visually-hidden" for="estate-q">Words</label>
    <input class="form-control" id="estate-q" name="q" size="24" maxlength="100" placeholder="workload, site, group" data-key="f"
        value="{{ $filter->text }}">
    <label class="visually-hidden" for="estate-kind">Kind</label>
    <select class="form-select w-auto" id="estate-kind" name="kind">
        <option value="">any kind</option>
        @foreach ($view->kinds() as $kind)
            <option value="{{ $kind }}" @selected($filter->kind === $kind)>{{ $kind }}</option>
        @endforeach
    </select>
    <label class="text-nowrap"><input type="checkbox" name="concerns" value="1" @checked($filter->isConcerning)> with something to see
        to</label>
    <button class="btn btn-sm btn-outline-primary">Filter <kbd>f</kbd></button>
    @if (!$filter->isNone())
        <a class="text-decoration-underline" href="/estate">all</a>
    @endif
</form>
