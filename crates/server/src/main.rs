//! The binary `dustcoat`.

fn main() -> std::process::ExitCode {
    dustcoat::cli::main()
}
